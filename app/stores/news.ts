import { defineStore } from 'pinia';
import { useQueryCache } from '@pinia/colada';
import { contract } from '~~/core/contract/index.ts';

/**
 * What the server tells open windows: which version of each form is the newest. A window that is not looked at does not listen, since a
 * browser holds few connections open; it hears all it missed when it is looked at again.
 */
export const useNews = defineStore('news', () => {
  const session = useSession();
  const queries = useQueryCache();
  /** the newest version of each form that whoever is signed in may use, as far as it was told */
  const versions = shallowRef<Readonly<Record<string, number>>>({});
  let stream: EventSource | null = null;

  function told(form: string, version: number): void {
    if (versions.value[form] === version) return;
    versions.value = { ...versions.value, [form]: version };
    void queries.invalidateQueries({ key: ['forms'] });
  }
  function hear(): void {
    if (stream) return;
    stream = new EventSource(routeAddress(contract.news.hear));
    stream.addEventListener('versions', (e: MessageEvent<string>) => {
      const now = JSON.parse(e.data) as Record<string, number>;
      const before = versions.value;
      versions.value = now;
      if (Object.keys(before).length && JSON.stringify(before) !== JSON.stringify(now)) void queries.invalidateQueries({ key: ['forms'] });
    });
    stream.addEventListener('published', (e: MessageEvent<string>) => {
      const { form, version } = JSON.parse(e.data) as { form: string; version: number };
      told(form, version);
    });
    // refused (the session has ended, too many windows): it is tried again when the window is looked at anew
    stream.addEventListener('error', () => stream?.readyState === EventSource.CLOSED && end());
  }
  function end(): void {
    stream?.close();
    stream = null;
  }
  function follow(): void {
    if (session.account && document.visibilityState === 'visible') hear();
    else end();
  }
  /** Begins to listen, as long as somebody is signed in and the window is looked at. Called once. */
  function begin(): void {
    document.addEventListener('visibilitychange', follow);
    watch(
      () => session.account?.id ?? null,
      () => {
        end();
        versions.value = {};
        follow();
      },
      { immediate: true },
    );
  }
  return { versions, begin };
});
