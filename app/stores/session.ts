import { defineStore } from 'pinia';
import type { contract } from '~~/core/contract/index.ts';
import type { SessionAccount } from '~~/core/contract/session.ts';

export type { SessionAccount } from '~~/core/contract/session.ts';

/** Who is signed in, and whom the demo offers. */
export const useSession = defineStore('session', () => {
  const account = shallowRef<SessionAccount | null>(null);
  const demo = shallowRef<Answer<typeof contract.session.read>['demo']>([]);
  const builds = computed(() => account.value?.role === 'designer' || account.value?.role === 'administrator');

  async function load(): Promise<void> {
    const answer = await api.session.read().catch(() => ({ account: null, demo: [] }));
    account.value = answer.account;
    demo.value = answer.demo;
  }
  async function signIn(by: { email: string; password: string } | { demo: number }): Promise<void> {
    account.value = (await api.session.begin(by)).account;
  }
  async function signOut(): Promise<void> {
    await api.session.end();
    account.value = null;
    await navigateTo('/sign-in');
  }
  return { account, demo, builds, load, signIn, signOut };
});
