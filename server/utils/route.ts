import { type H3Event, defineEventHandler, getHeader, getQuery, getRequestHost, getRouterParams, setHeader, setResponseStatus } from 'h3';
import type { z } from 'zod';
import {
  type Answer,
  DESIGN_ROLES,
  type Given,
  type ParamsOf,
  type Result,
  type RouteSpec,
  answerProblem,
} from '../../core/contract/define.ts';
import type { Account } from '../database/accounts';
import { Refused } from '../services/errors';
import { type JobHandle, beginJob } from '../services/jobs';
import { programAccount } from '../services/programs';
import { requireRight } from '../services/rights';
import { sessionAccount } from '../services/sessions';
import type { Workspace } from '../services/workspace';
import { behindProxy } from './address';
import { Pace } from '../services/pace';
import { readJson } from './body';
import { sessionToken } from './cookie';
import { parsed, parsedInParts } from './parse';
import { troubleOf } from './trouble';
import { useWorkspace } from './workspace';

/** A route that was declared: its parts are known to the compiler one by one. */
type AnyRoute = RouteSpec<string, z.ZodType | null, z.ZodType | null, z.ZodType | null, z.ZodType | null>;
type Params<R extends AnyRoute> = Readonly<Record<ParamsOf<R['path']>, string>>;
/** What a handler gives: what its route answers, or whatever sends a file. */
type Handled<R extends AnyRoute> = Promise<Answer<R>>;

export interface RouteContext<R extends AnyRoute> {
  readonly event: H3Event;
  readonly ws: Workspace;
  /** who is signed in */
  readonly account: Account;
  readonly params: Params<R>;
  readonly body: Given<R['body']>;
  readonly query: Given<R['query']>;
  /** Begins the long work whose result the route declares; gives its number at once. */
  readonly begin: (kind: string, work: (job: JobHandle) => Promise<Result<R>>) => string;
}

const MAX_BYTES = 2_000_000;
/** An id in the address: a whole number, or 404. */
export const idParam = (params: Readonly<Record<string, string>>, name = 'id'): number => {
  const id = Number(params[name]);
  if (!Number.isSafeInteger(id) || id < 1) throw new Refused(404, 'notFound', 'There is no such row.');
  return id;
};

/** A route of the contract: checks who asks, parses what came, calls one service, answers. All refusals leave as JSON with a sentence. */
export function route<R extends AnyRoute>(spec: R, handle: (context: RouteContext<R>) => Handled<R>) {
  return defineEventHandler((event) =>
    answering(event, async () => {
      const ws = await useWorkspace();
      ws.look();
      const account = await whoAsks(event, ws);
      const roles = spec.may === 'design' ? DESIGN_ROLES : spec.may;
      if (typeof roles !== 'string' && !account.roles.some((r) => roles.includes(r))) {
        throw new Refused(
          403,
          'forbidden',
          `Only a ${roles.join(' or ')} may do this; you are signed in as ${account.roles.join(' and ')}.`,
        );
      }
      const params = getRouterParams(event) as Params<R>;
      if (account.scope && !spec.right && !spec.forPrograms)
        throw new Refused(403, 'forbidden', 'A program may not do this: it enters and reads records.');
      if (spec.right) await requireRight(ws, account, (params as { key?: string }).key ?? '', spec.right);
      return asDeclared(
        spec,
        await handle({
          event,
          ws,
          account,
          params,
          body: await bodyOf(spec, event),
          query: parsed(spec.query, getQuery(event)) as Given<R['query']>,
          begin: (kind, work) =>
            beginJob(kind, account.id, async (job) => {
              const result = await work(job);
              if (checking()) mustFit(spec.result, result, `what ${spec.method} ${spec.path} comes to`);
              return result;
            }),
        }),
      );
    }),
  );
}

/** A route for people who are not signed in yet. */
export function openRoute<R extends AnyRoute>(
  spec: R,
  handle: (context: Pick<RouteContext<R>, 'event' | 'ws' | 'params' | 'body'>) => Handled<R>,
) {
  return defineEventHandler((event) =>
    answering(event, async () => {
      const params = getRouterParams(event) as Params<R>;
      return asDeclared(spec, await handle({ event, ws: await useWorkspace(), params, body: await bodyOf(spec, event) }));
    }),
  );
}

async function bodyOf<R extends AnyRoute>(spec: R, event: H3Event): Promise<Given<R['body']>> {
  if (!spec.body) return undefined as Given<R['body']>;
  const pace = new Pace();
  const json = await readJson(event, spec.maxBytes ?? MAX_BYTES);
  await pace.rest();
  const body = await parsedInParts(spec.body, json, pace);
  // what takes thousands of edits apart lets others have their turn before they are worked through
  await pace.rest();
  return body as Given<R['body']>;
}

/** Whether answers are held against the contract before they leave (BRISK_CHECK_ANSWERS=yes): in tests, for it takes time. */
const checking = (): boolean => process.env.BRISK_CHECK_ANSWERS === 'yes';
/** An answer as its route declares it. Throws when it is another, where answers are checked. */
function asDeclared<R extends AnyRoute>(spec: R, answer: unknown): unknown {
  if (checking()) mustFit(spec.answer, answer, `what ${spec.method} ${spec.path} answers`);
  return answer;
}
function mustFit(schema: z.ZodType | null, value: unknown, what: string): void {
  if (!schema) return;
  const problem = answerProblem(schema, value ?? null);
  if (problem !== null) throw new Error(`${what} is not what the contract says: ${problem}`);
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
    // a file that cannot be sent to its end: that it is not whole is seen by its being broken off
    if (event.node.res.headersSent) event.node.res.destroy();
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

/** Who asks: a program by its token, else whoever is signed in. */
async function whoAsks(event: H3Event, ws: Workspace): Promise<Account> {
  const [scheme = '', token = ''] = (getHeader(event, 'authorization') ?? '').split(' ');
  if (scheme.toLowerCase() === 'bearer') {
    const program = await programAccount(ws, token);
    if (!program) throw new Refused(401, 'signIn', 'This token is not known, or was ended.');
    return program;
  }
  const account = await signedIn(event, ws);
  if (!account) throw new Refused(401, 'signIn', 'Sign in first.');
  return account;
}

export async function signedIn(event: H3Event, ws: Workspace): Promise<Account | null> {
  const token = sessionToken(event);
  return token === null ? null : sessionAccount(ws, token);
}
