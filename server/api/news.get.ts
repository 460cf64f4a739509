import { createEventStream } from 'h3';
import { contract } from '../../core/contract/index.ts';
import { hear, versionsFor } from '../services/news';
import { sessionAccount } from '../services/sessions';
import { sessionToken } from '../utils/cookie';
import { route } from '../utils/route';

/** How often it is seen whether whoever hears is still signed in, in ms; it also keeps proxies from taking the stream for dead. */
const BEAT = 20_000;
const streams = new Set<{ close(): Promise<void> }>();
// a server that stops does not wait for windows that only listen
for (const signal of ['SIGTERM', 'SIGINT'] as const) process.on(signal, () => streams.forEach((s) => void s.close()));

/** News for an open window, as server-sent events: first the newest versions, then each that is published. */
export default route(contract.news.hear, async ({ event, ws, account }) => {
  const stream = createEventStream(event);
  const tell = (name: string, data: unknown): void => void stream.push({ event: name, data: JSON.stringify(data) }).catch(() => undefined);
  const end = hear(ws, account, (e) => tell(e.kind, { form: e.form, version: e.version }));
  streams.add(stream);
  const beat = setInterval(() => {
    const token = sessionToken(event);
    // a window that only listens keeps no session from idling
    (token === null ? Promise.resolve(null) : sessionAccount(ws, token, Date.now(), false)).then(
      (who) => (who?.id === account.id ? tell('beat', {}) : void stream.close()),
      () => void stream.close(),
    );
  }, BEAT);
  stream.onClosed(() => {
    clearInterval(beat);
    end();
    streams.delete(stream);
  });
  tell('versions', await versionsFor(ws, account));
  return stream.send();
});
