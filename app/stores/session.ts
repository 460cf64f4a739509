import { defineStore } from 'pinia';

export interface SessionAccount {
  readonly id: number;
  readonly email: string;
  readonly name: string;
  readonly role: 'designer' | 'clerk' | 'reviewer' | 'administrator';
  readonly person: number;
}
type DemoAccount = Pick<SessionAccount, 'id' | 'name' | 'email' | 'role'>;

/** Who is signed in, and whom the demo offers. */
export const useSession = defineStore('session', () => {
  const account = shallowRef<SessionAccount | null>(null);
  const demo = shallowRef<readonly DemoAccount[]>([]);
  const builds = computed(() => account.value?.role === 'designer' || account.value?.role === 'administrator');

  async function load(): Promise<void> {
    const answer = await api<{ account: SessionAccount | null; demo: DemoAccount[] }>('session').catch(() => ({ account: null, demo: [] }));
    account.value = answer.account;
    demo.value = answer.demo;
  }
  async function signIn(by: { email: string; password: string } | { demo: number }): Promise<void> {
    account.value = (await api<{ account: SessionAccount }>('session', { method: 'POST', body: by })).account;
  }
  async function signOut(): Promise<void> {
    await api('session', { method: 'DELETE' });
    account.value = null;
    await navigateTo('/sign-in');
  }
  return { account, demo, builds, load, signIn, signOut };
});
