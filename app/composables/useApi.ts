/** What the server said when it refused: a code to branch on, a sentence to show, and details. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly details: Readonly<Record<string, unknown>>,
  ) {
    super(message);
  }
}

interface ApiOptions {
  readonly method?: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';
  readonly body?: unknown;
  readonly query?: Readonly<Record<string, string | number | undefined>>;
  readonly signal?: AbortSignal;
}

/** Calls the server. Throws ApiError for every refusal; status 0 means that it could not be reached. */
export async function api<T>(path: string, options: ApiOptions = {}): Promise<T> {
  const query = new URLSearchParams();
  for (const [key, value] of Object.entries(options.query ?? {})) if (value !== undefined) query.set(key, String(value));
  const url = `/api/${path}${query.size ? `?${query.toString()}` : ''}`;
  const send = options.body !== undefined;
  let response: Response;
  try {
    response = await fetch(url, {
      method: options.method ?? (send ? 'POST' : 'GET'),
      headers: send ? { 'content-type': 'application/json' } : {},
      body: send ? JSON.stringify(options.body) : undefined,
      signal: options.signal,
    });
  } catch (e) {
    if (e instanceof DOMException && e.name === 'AbortError') throw e;
    throw new ApiError(0, 'offline', 'The server cannot be reached. Nothing you typed is lost; try again in a moment.', {});
  }
  const data = (await response.json().catch(() => null)) as Record<string, unknown> | null;
  if (response.ok) return data as T;
  if (response.status === 401 && path !== 'session') await navigateTo(`/sign-in?to=${encodeURIComponent(useRoute().fullPath)}`);
  throw new ApiError(
    response.status,
    String(data?.code ?? 'failed'),
    String(data?.message ?? `The server answered ${response.status}.`),
    data ?? {},
  );
}

/** The message of anything thrown, for showing. */
export const messageOf = (e: unknown): string => (e instanceof Error ? e.message : String(e));
