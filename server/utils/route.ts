import { type H3Event, defineEventHandler, getHeader, getQuery, getRequestHost, getRouterParams, setHeader, setResponseStatus } from 'h3';
import { z } from 'zod';
import { type Account, DESIGN_ROLES, type Role } from '../services/accounts';
import { Refused } from '../services/errors';
import { sessionAccount } from '../services/sessions';
import type { Workspace } from '../services/workspace';
import { behindProxy } from './address';
import { readJson } from './body';
import { sessionToken } from './cookie';
import { troubleOf } from './trouble';
import { useWorkspace } from './workspace';

export interface RouteContext<Body, Query> {
  readonly event: H3Event;
  readonly ws: Workspace;
  /** who is signed in */
  readonly account: Account;
  readonly params: Readonly<Record<string, string>>;
  readonly body: Body;
  readonly query: Query;
}

interface RouteOptions<Body, Query> {
  /** who may: everybody signed in ('signedIn'), those who build ('design'), or roles by name */
  readonly may: 'signedIn' | 'design' | readonly Role[];
  readonly body?: z.ZodType<Body>;
  readonly query?: z.ZodType<Query>;
  readonly maxBytes?: number;
}

const MAX_BYTES = 2_000_000;
/** An id in the address: a whole number, or 404. */
export const idParam = (params: Readonly<Record<string, string>>, name = 'id'): number => {
  const id = Number(params[name]);
  if (!Number.isSafeInteger(id) || id < 1) throw new Refused(404, 'notFound', 'There is no such row.');
  return id;
};

/** A route: checks who asks, parses what came, calls one service, answers. All refusals leave as JSON with a sentence. */
export function route<Body = undefined, Query = undefined>(
  options: RouteOptions<Body, Query>,
  handle: (context: RouteContext<Body, Query>) => Promise<unknown>,
) {
  return defineEventHandler(async (event) => {
    return answering(event, async () => {
      const ws = await useWorkspace();
      const account = await signedIn(event, ws);
      if (!account) throw new Refused(401, 'signIn', 'Sign in first.');
      const roles = options.may === 'design' ? DESIGN_ROLES : options.may;
      if (roles !== 'signedIn' && !roles.includes(account.role)) {
        throw new Refused(403, 'forbidden', `Only a ${roles.join(' or ')} may do this; you are signed in as ${account.role}.`);
      }
      return handle({
        event,
        ws,
        account,
        params: getRouterParams(event),
        body: options.body ? parsed(options.body, await readJson(event, options.maxBytes ?? MAX_BYTES)) : (undefined as Body),
        query: options.query ? parsed(options.query, getQuery(event)) : (undefined as Query),
      });
    });
  });
}

interface OpenRouteOptions<Body> {
  readonly body?: z.ZodType<Body>;
  readonly maxBytes?: number;
}

/** A route for people who are not signed in yet. */
export function openRoute<Body = undefined>(
  { body, maxBytes = MAX_BYTES }: OpenRouteOptions<Body>,
  handle: (context: { event: H3Event; ws: Workspace; body: Body }) => Promise<unknown>,
) {
  return defineEventHandler((event) =>
    answering(event, async () =>
      handle({ event, ws: await useWorkspace(), body: body ? parsed(body, await readJson(event, maxBytes)) : (undefined as Body) }),
    ),
  );
}

/** Answers as JSON whatever happens: what was asked for, a refusal with a sentence, or that something went wrong. */
export async function answering(event: H3Event, work: () => Promise<unknown>): Promise<unknown> {
  // what is answered belongs to whoever asked, and may be different a moment later
  setHeader(event, 'cache-control', 'no-store');
  try {
    sameSite(event);
    return (await work()) ?? null;
  } catch (e) {
    if (e instanceof Refused) {
      setResponseStatus(event, e.status);
      return { code: e.code, message: e.message, ...e.details };
    }
    const trouble = troubleOf(e);
    console.error(`[${event.method} ${event.path}]`, trouble ?? e);
    if (trouble) {
      setResponseStatus(event, 503);
      return { code: 'trouble', message: `${trouble} What you did was not saved.` };
    }
    setResponseStatus(event, 500);
    return { code: 'failed', message: 'Something went wrong on the server. What you did was not saved; try again.' };
  }
}

/** Changes must come from our own pages: the browser's Origin, where it sends one, must be this host. */
function sameSite(event: H3Event): void {
  if (event.method === 'GET' || event.method === 'HEAD') return;
  const origin = getHeader(event, 'origin');
  if (origin === undefined) return;
  const host = URL.canParse(origin) ? new URL(origin).host : null;
  // behind a proxy of ours the name that was asked for may be told beside; no page of another site can add such a header
  if (host !== getRequestHost(event, { xForwardedHost: behindProxy() }).toLowerCase())
    throw new Refused(403, 'forbidden', 'This request came from another site.');
}

export async function signedIn(event: H3Event, ws: Workspace): Promise<Account | null> {
  const token = sessionToken(event);
  return token === null ? null : sessionAccount(ws, token);
}

function parsed<T>(schema: z.ZodType<T>, input: unknown): T {
  const result = schema.safeParse(input);
  if (result.success) return result.data;
  const [first] = result.error.issues;
  const where = first?.path.length ? `${first.path.join('.')}: ` : '';
  throw new Refused(400, 'body', `${where}${first?.message ?? 'does not fit'}`, {
    issues: result.error.issues.slice(0, 20).map((i) => ({ path: i.path.join('.'), message: i.message })),
  });
}

export const gridQuery = z.object({
  search: z.string().max(200).default(''),
  sort: z
    .string()
    .max(60)
    .optional()
    .transform((s) => s ?? null),
  descending: z
    .enum(['0', '1'])
    .default('0')
    .transform((d) => d === '1'),
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
}) as unknown as z.ZodType<{ search: string; sort: string | null; descending: boolean; offset: number; limit: number }>;
