import { defineStore } from 'pinia';
import { mayBuild } from '~~/core/values/roles.ts';
import type { contract } from '~~/core/contract/index.ts';
import type { SessionAccount } from '~~/core/contract/session.ts';

export type { SessionAccount } from '~~/core/contract/session.ts';

/** Who is signed in, and whom the demo offers. */
export const useSession = defineStore('session', () => {
  const account = shallowRef<SessionAccount | null>(null);
  const demo = shallowRef<Answer<typeof contract.session.read>['demo']>([]);
  const builds = computed(() => mayBuild(account.value?.roles ?? []));
  const administers = computed(() => account.value?.roles.includes('administrator') ?? false);

  async function load(): Promise<void> {
    const answer = await api.session.read().catch(() => ({ account: null, demo: [] }));
    account.value = answer.account;
    demo.value = answer.demo;
    if (answer.account) await useWorkspaceSettings().load();
  }
  async function signIn(by: { email: string; password: string } | { demo: number }): Promise<void> {
    account.value = (await api.session.begin(by)).account;
    await useWorkspaceSettings().load();
  }
  // ---- a session that ended while somebody works: they sign in over what they were at, and go on ----
  const ended = ref(false);
  let waiting: { readonly answer: Promise<boolean>; readonly give: (again: boolean) => void } | null = null;
  /** Asks for signing in again; whether it was done. Those that ask meanwhile wait for the same answer. */
  function again(): Promise<boolean> {
    if (!account.value) return leave().then(() => false);
    ended.value = true;
    if (!waiting) {
      let give = (_: boolean): void => {};
      waiting = { answer: new Promise<boolean>((resolve) => (give = resolve)), give: (yes) => give(yes) };
    }
    return waiting.answer;
  }
  function end(signedIn: boolean): void {
    ended.value = false;
    waiting?.give(signedIn);
    waiting = null;
  }
  /** Signs in again. Somebody else begins anew: what stands on the screen is not theirs. Throws ApiError. */
  async function resume(by: { email: string; password: string } | { demo: number }): Promise<void> {
    const before = account.value?.id;
    account.value = (await api.session.begin(by)).account;
    if (account.value.id === before) end(true);
    else location.assign('/');
  }
  /** Leaves what is on the screen; what was typed is kept. */
  async function leave(): Promise<void> {
    const to = useRoute().fullPath;
    account.value = null;
    end(false);
    await navigateTo(`/sign-in?to=${encodeURIComponent(to)}`);
  }
  async function signOut(): Promise<void> {
    await api.session.end();
    account.value = null;
    await navigateTo('/sign-in');
  }
  return { account, demo, builds, administers, ended, load, signIn, again, resume, leave, signOut };
});
