import type { z } from 'zod';
import type { Right } from '../form/rights.ts';
import type { Role } from '../values/roles.ts';
import type { Deep } from '../values/types.ts';

/* What a route is: where it is asked, who may ask, what goes in and what comes out. Server and client are made from it. */

export { DESIGN_ROLES, ROLES, type Role } from '../values/roles.ts';

type Method = 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';
/** Who may ask: anybody, everybody signed in, those who build, or roles by name. */
export type May = 'anybody' | 'signedIn' | 'design' | readonly Role[];
type Schema = z.ZodType | null;

export interface RouteSpec<
  P extends string = string,
  Q extends Schema = Schema,
  B extends Schema = Schema,
  A extends Schema = Schema,
  J extends Schema = Schema,
> {
  readonly method: Method;
  /** below /api, with `:name` for what stands in the path */
  readonly path: P;
  readonly may: May;
  /** of a form named in the path as `:key`: one of these rights with it is needed too */
  readonly right?: readonly Right[];
  /** programs may ask it, whatever forms they have rights with */
  readonly forPrograms?: true;
  /** one sentence for whoever reads the description */
  readonly about: string;
  readonly query: Q;
  readonly body: B;
  /** what is answered as JSON; null for a file */
  readonly answer: A;
  /** what the job comes to that the answer names, where one is begun */
  readonly result: J;
  /** the most bytes of a body; the server's own limit when it is not said */
  readonly maxBytes?: number;
  /** what is sent is a file and no JSON */
  readonly takesFile?: true;
}

/**
 * Declares a route. Takes where it is asked, who may, and its schemas; gives them with null for those that are not named, and with the
 * types of path and schemas kept, so that server and client follow from them.
 */
export function define<
  const P extends string,
  Q extends Schema = null,
  B extends Schema = null,
  A extends Schema = null,
  J extends Schema = null,
>(
  spec: Pick<RouteSpec<P>, 'method' | 'path' | 'may' | 'right' | 'forPrograms' | 'about' | 'maxBytes' | 'takesFile'> & {
    query?: Q;
    body?: B;
    answer?: A;
    result?: J;
  },
): RouteSpec<P, Q, B, A, J> {
  const { query = null, body = null, answer = null, result = null, ...rest } = spec;
  return { ...rest, query: query as Q, body: body as B, answer: answer as A, result: result as J };
}

/** Whether something in the contract is a route, and not a noun that holds some. */
export const isRoute = (x: unknown): x is RouteSpec => typeof x === 'object' && x !== null && 'method' in x && 'path' in x;

/** The names that stand in a path: 'forms/:key/records/:id' → 'key' | 'id'. */
export type ParamsOf<P extends string> = P extends `${string}:${infer Name}/${infer Rest}` ? Name | ParamsOf<Rest> : P extends `${string}:${infer Name}` ? Name : never; // prettier-ignore

export type { Deep } from '../values/types.ts';
/** What a handler is given of what was sent. */
export type Given<S extends Schema> = S extends z.ZodType ? z.output<S> : undefined;
/** What a client sends. */
export type Sent<S extends Schema> = S extends z.ZodType ? Deep<z.input<S>> : undefined;
/** What a client is answered; unknown where it is a file. */
export type AnswerOf<R extends RouteSpec> = R['answer'] extends z.ZodType ? z.output<R['answer']> : unknown;
/** What the work comes to that a route begins; never where it begins none. */
export type ResultOf<R extends RouteSpec> = R['result'] extends z.ZodType ? z.output<R['result']> : never;
/** The same, only to be read: what a server gives and what a screen shows. */
export type Answer<R extends RouteSpec> = Deep<AnswerOf<R>>;
export type Result<R extends RouteSpec> = Deep<ResultOf<R>>;

/**
 * The path of a route with its names filled in, each escaped, below /api and without a slash before it. Throws RangeError when one is
 * missing, or is none that can stand in a path.
 */
export function pathOf(route: Pick<RouteSpec, 'path'>, params: Readonly<Record<string, string | number>>): string {
  return route.path.replace(/:([a-z]+)/gi, (_, name: string) => {
    const value = params[name];
    // an empty part, `.` and `..` would make another path of it, however they are written
    if (value === undefined || ['', '.', '..'].includes(String(value))) throw new RangeError(`${route.path} needs “${name}”.`);
    return encodeURIComponent(String(value));
  });
}

/**
 * Takes an answer, before it is written as JSON, and the schema its route declares. Gives what does not fit, with where, as one line;
 * null when all of it fits. Names that are not declared are told too. Throws TypeError where an answer cannot be JSON at all.
 */
export function answerProblem(schema: z.ZodType, answer: unknown): string | null {
  // as it travels: what JSON leaves out is not there
  const sent: unknown = JSON.parse(JSON.stringify(answer));
  const result = schema.safeParse(sent);
  if (!result.success) return result.error.issues.slice(0, 5).map((i) => `${i.path.join('.') || 'the whole'}: ${i.message}`).join('; '); // prettier-ignore
  const extra = undeclared(sent, result.data, '');
  return extra === null ? null : `${extra} is not declared`;
}
/** The first name that a schema passed over, for it drops what it does not know. Depth: that of what was parsed. */
function undeclared(sent: unknown, known: unknown, path: string): string | null {
  if (typeof sent !== 'object' || sent === null || typeof known !== 'object' || known === null) return null;
  for (const [name, value] of Object.entries(sent)) {
    const here = path ? `${path}.${name}` : name;
    if (!Object.hasOwn(known, name)) return here;
    const inner = undeclared(value, (known as Record<string, unknown>)[name], here);
    if (inner !== null) return inner;
  }
  return null;
}
