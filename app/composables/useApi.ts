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
  if (response.status === 401 && path !== 'session') await navigateTo(`/sign-in?to=${encodeURIComponent(useRoute().fullPath)}`);
  return readAnswer<T>(response);
}

/** The message of anything thrown, for showing. */
export const messageOf = (e: unknown): string => (e instanceof Error ? e.message : String(e));

/** Sends a file as the body of a request; gives what the server made of it. Throws ApiError. */
export async function sendBody<T>(path: string, file: File): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api/${path}?name=${encodeURIComponent(file.name)}`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: file,
    });
  } catch {
    throw new ApiError(0, 'offline', 'The server cannot be reached, so the file was not sent.', {});
  }
  return readAnswer<T>(response);
}

async function readAnswer<T>(response: Response): Promise<T> {
  const data = (await response.json().catch(() => null)) as Record<string, unknown> | null;
  if (response.ok) return data as T;
  throw new ApiError(
    response.status,
    String(data?.code ?? 'failed'),
    String(data?.message ?? `The server answered ${response.status}.`),
    data ?? {},
  );
}

/** Sends a file that a field holds; gives its number and what the server made of it. */
export const sendFile = (file: File): Promise<{ id: number; name: string; kind: string; size: number }> => sendBody('files', file);
