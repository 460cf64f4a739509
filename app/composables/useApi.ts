import { type AnswerOf, type ParamsOf, type ResultOf, type RouteSpec, type Sent, isRoute, pathOf } from '~~/core/contract/define.ts';
import { contract } from '~~/core/contract/index.ts';

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

/** Work that was begun: its number, and the type of what it will come to. */
export interface Begun<T> {
  readonly job: string;
  readonly comesTo?: T;
}
type AnyRoute = RouteSpec;
type Params<R extends AnyRoute> = [ParamsOf<R['path']>] extends [never]
  ? []
  : [params: Readonly<Record<ParamsOf<R['path']>, string | number>>];
type InputOf<R extends AnyRoute> = R['body'] extends null ? Sent<R['query']> : Sent<R['body']>;
type Input<R extends AnyRoute> = InputOf<R> extends undefined ? [] : Record<string, never> extends InputOf<R> ? [input?: InputOf<R>] : [input: InputOf<R>]; // prettier-ignore
type Address<R extends AnyRoute> = [ParamsOf<R['path']>] extends [never] ? [params?: undefined, query?: Sent<R['query']>] : [params: Readonly<Record<ParamsOf<R['path']>, string | number>>, query?: Sent<R['query']>]; // prettier-ignore
type Call<R extends AnyRoute> = (
  ...args: [...Params<R>, ...Input<R>]
) => Promise<[ResultOf<R>] extends [never] ? AnswerOf<R> : Begun<ResultOf<R>>>;
type Client<T> = { readonly [K in keyof T]: T[K] extends AnyRoute ? Call<T[K]> : Client<T[K]> };

export type { Answer } from '~~/core/contract/define.ts';

/**
 * The server's routes by the names of the contract: `api.forms.publish({ key }, { revision })`. First what stands in the path, then
 * what is sent or asked. Throws ApiError for every refusal; status 0 means that the server could not be reached.
 */
export const api = clientOf(contract);

function clientOf<T extends object>(tree: T): Client<T> {
  const calls = Object.entries(tree).map(([name, x]: [string, unknown]) => [name, isRoute(x) ? callOf(x) : clientOf(x as object)]);
  return Object.fromEntries(calls) as Client<T>;
}
function callOf(route: RouteSpec) {
  const named = route.path.includes(':');
  return (...args: readonly (Readonly<Record<string, unknown>> | undefined)[]) => {
    const params = named ? (args[0] as Record<string, string>) : {};
    const input = args[named ? 1 : 0] ?? {};
    return ask(route, params, route.body ? {} : input, route.body ? input : undefined);
  };
}

async function ask(
  route: RouteSpec,
  params: Readonly<Record<string, string>>,
  query: Readonly<Record<string, unknown>>,
  body: unknown,
): Promise<unknown> {
  const send = () => reach(addressFor(route, params, query), {
    method: route.method,
    headers: body === undefined ? {} : { 'content-type': 'application/json' },
    body: body === undefined ? undefined : JSON.stringify(body),
  }, 'The server cannot be reached. Nothing you typed is lost; try again in a moment.'); // prettier-ignore
  return readAnswer(route === contract.session.begin ? await send() : await signedIn(send));
}
/** Asks; where the session has ended meanwhile, once more after signing in again. */
async function signedIn(send: () => Promise<Response>): Promise<Response> {
  const response = await send();
  return response.status === 401 && (await useSession().again()) ? send() : response;
}
/** Where a route is asked, for a link to it. */
export const routeAddress = <R extends AnyRoute>(route: R, ...[params, query]: Address<R>): string =>
  addressFor(route, params, (query ?? {}) as Readonly<Record<string, unknown>>);
function addressFor(
  route: AnyRoute,
  params: Readonly<Record<string, string | number>> = {},
  query: Readonly<Record<string, unknown>> = {},
): string {
  const asked = new URLSearchParams();
  for (const [key, value] of Object.entries(query)) if (value !== undefined && value !== null) asked.set(key, String(value));
  return `/api/${pathOf(route, params)}${asked.size ? `?${asked.toString()}` : ''}`;
}

/** The message of anything thrown, for showing. */
export const messageOf = (e: unknown): string => (e instanceof Error ? e.message : String(e));

/** Sends a file as the body of a request; gives what the server made of it. Throws ApiError. */
export async function sendBody<R extends AnyRoute>(route: R, file: File): Promise<AnswerOf<R>> {
  const how = { method: route.method, headers: { 'content-type': 'application/octet-stream' }, body: file };
  const words = 'The server cannot be reached, so the file was not sent.';
  return (await readAnswer(await signedIn(() => reach(addressFor(route, {}, { name: file.name }), how, words)))) as AnswerOf<R>;
}

async function reach(address: string, how: RequestInit, offline: string): Promise<Response> {
  try {
    return await fetch(address, how);
  } catch {
    throw new ApiError(0, 'offline', offline, {});
  }
}
async function readAnswer(response: Response): Promise<unknown> {
  const data = (await response.json().catch(() => null)) as Record<string, unknown> | null;
  if (response.ok) return data;
  throw new ApiError(
    response.status,
    String(data?.code ?? 'failed'),
    String(data?.message ?? `The server answered ${response.status}.`),
    data ?? {},
  );
}
