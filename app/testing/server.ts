import { vi } from 'vitest';

/** A request as the application sent it. */
export interface Sent {
  readonly method: string;
  readonly path: string;
  readonly body: unknown;
}
type Answer = { readonly status?: number; readonly body: unknown } | Promise<{ readonly status?: number; readonly body: unknown }>;

/**
 * A server for tests of stores and composables: `answers` says what it gives to a request, at once or when a test lets it. What it
 * was sent stands in `sent`, in order.
 */
export function standInServer(answers: (sent: Sent) => Answer) {
  const sent: Sent[] = [];
  vi.stubGlobal('fetch', async (url: string, init: RequestInit = {}) => {
    const request: Sent = {
      method: init.method ?? 'GET',
      path: url.replace(/^\/api\//, ''),
      body: init.body ? JSON.parse(String(init.body)) : null,
    };
    sent.push(request);
    const { status = 200, body } = await answers(request);
    return new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/json' } });
  });
  vi.stubGlobal('navigateTo', vi.fn());
  vi.stubGlobal('useRoute', () => ({ fullPath: '/', path: '/' }));
  return { sent };
}

/** An answer that is given when a test says so. */
export function later<T>() {
  let give: (value: T) => void = () => undefined;
  const answer = new Promise<T>((resolve) => (give = resolve));
  return { answer, give };
}
