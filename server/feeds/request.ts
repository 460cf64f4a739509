import { lookup as dnsLookup, type LookupAddress, type LookupOptions } from 'node:dns';
import http from 'node:http';
import https from 'node:https';
import { BlockList, isIP } from 'node:net';

/** One request to an outside service, everything filled in. */
export interface OutsideRequest {
  readonly url: string;
  readonly method: 'GET' | 'POST';
  readonly headers: Readonly<Record<string, string>>;
  readonly body: string | null;
  /** milliseconds for the whole of it */
  readonly timeout: number;
  /** the most bytes read */
  readonly limit: number;
}
export interface OutsideAnswer {
  readonly status: number;
  readonly body: string;
}

/** Why a service could not be asked, as a sentence. `again` says whether trying once more may help. */
export class FeedFailure extends Error {
  constructor(
    message: string,
    readonly again: boolean,
    /** what the service did answer, where it answered something */
    readonly body: string | null = null,
  ) {
    super(message);
  }
}

/** An entry of the list of allowed hosts: `example.org`, `example.org:8443`, `*.example.org`; `!` before it also allows private addresses. */
export function isAllowed(url: URL, hosts: readonly string[]): { allowed: boolean; private: boolean } {
  const port = url.port || (url.protocol === 'https:' ? '443' : '80');
  for (const entry of hosts) {
    const [host = '', wantedPort] = entry.replace(/^!/, '').toLowerCase().split(':');
    const name = url.hostname.toLowerCase();
    const fits = host.startsWith('*.') ? name.endsWith(host.slice(1)) : name === host;
    if (fits && (wantedPort === undefined || wantedPort === port)) return { allowed: true, private: entry.startsWith('!') };
  }
  return { allowed: false, private: false };
}

const PRIVATE = new BlockList();
for (const [net, bits] of [['0.0.0.0', 8], ['10.0.0.0', 8], ['100.64.0.0', 10], ['127.0.0.0', 8], ['169.254.0.0', 16], ['172.16.0.0', 12], ['192.0.0.0', 24], ['192.168.0.0', 16], ['198.18.0.0', 15], ['224.0.0.0', 3]] as const) PRIVATE.addSubnet(net, bits, 'ipv4'); // prettier-ignore
for (const [net, bits] of [['::', 127], ['fc00::', 7], ['fe80::', 10], ['ff00::', 8]] as const) PRIVATE.addSubnet(net, bits, 'ipv6'); // prettier-ignore

/** Whether an address is one of this machine or of a private network. */
export function isPrivateAddress(address: string): boolean {
  const mapped = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1];
  if (mapped) return PRIVATE.check(mapped, 'ipv4');
  return PRIVATE.check(address, isIP(address) === 6 ? 'ipv6' : 'ipv4');
}

const MAX_REDIRECTS = 3;

/** Asks an outside service: only allowed hosts, also where it sends us on to; bounded in time and size. Throws FeedFailure. */
export async function askOutside(request: OutsideRequest, hosts: readonly string[]): Promise<OutsideAnswer> {
  const deadline = Date.now() + request.timeout;
  let now = request;
  for (let hop = 0; hop <= MAX_REDIRECTS; hop++) {
    const answer = await askOnce(now, hosts, deadline, hop > 0).catch((e: unknown) => {
      if (e instanceof FeedFailure) throw e;
      // a header or an address that cannot be sent at all
      throw new FeedFailure(`The service cannot be asked so (${(e as { code?: string }).code ?? String(e)}).`, false);
    });
    if (!answer.location) return answer;
    const next = URL.canParse(answer.location, now.url) ? new URL(answer.location, now.url) : null;
    if (!next) throw new FeedFailure('The service sent us on to something that is no address.', false);
    // what was meant for one host, secrets above all, is not told to another, nor over a line that is not as private
    const elsewhere = next.origin !== new URL(now.url).origin;
    // 307 and 308 ask the same again; others are answered by a plain look (RFC 9110, 15.4)
    const again = answer.status === 307 || answer.status === 308;
    now = {
      ...now,
      url: next.href,
      headers: elsewhere ? {} : now.headers,
      ...(elsewhere || !again ? { method: 'GET' as const, body: null } : {}),
    };
  }
  throw new FeedFailure(`The service sent us on more than ${MAX_REDIRECTS} times.`, false);
}

async function askOnce(
  request: OutsideRequest,
  hosts: readonly string[],
  deadline: number,
  sentOn: boolean,
): Promise<OutsideAnswer & { location: string | null }> {
  let url: URL;
  try {
    url = new URL(request.url);
  } catch {
    throw new FeedFailure(`“${request.url}” is no address.`, false);
  }
  if (url.protocol !== 'http:' && url.protocol !== 'https:')
    throw new FeedFailure(`Only http and https addresses can be asked, not ${url.protocol}`, false);
  const rule = isAllowed(url, hosts);
  if (!rule.allowed) {
    const what = sentOn ? `The service sent us on to ${url.host}, which is` : `${url.host} is`;
    throw new FeedFailure(`${what} not among the hosts that may be asked. An administrator can allow it under Feeds.`, false);
  }
  const refusePrivate = (address: string): FeedFailure | null =>
    rule.private || !isPrivateAddress(address)
      ? null
      : new FeedFailure(`${url.host} is an address of a private network. An administrator must allow it as such.`, false);
  if (isIP(url.hostname.replace(/^\[|\]$/g, ''))) {
    const refused = refusePrivate(url.hostname.replace(/^\[|\]$/g, ''));
    if (refused) throw refused;
  }
  return new Promise((resolve, reject) => {
    const seconds = (request.timeout / 1000).toLocaleString('en', { maximumFractionDigits: 1 });
    const late = new FeedFailure(`The service did not answer within ${seconds} seconds.`, true);
    // the address is checked where it is connected to, so that a name that changes between two look-ups gains nothing
    const lookup = (
      host: string,
      options: LookupOptions,
      done: (e: Error | null, address: string | LookupAddress[], family?: number) => void,
    ): void => {
      dnsLookup(host, { ...options, all: true }, (error, found) => {
        if (error) return done(error, []);
        const refused = found.map((f) => refusePrivate(f.address)).find((f) => f !== null);
        if (refused) return done(refused, []);
        const [first] = found;
        if (options.all) done(null, found);
        else done(null, first?.address ?? '', first?.family);
      });
    };
    const client = url.protocol === 'https:' ? https : http;
    const outgoing = client.request(
      url,
      { method: request.method, headers: { accept: 'application/json', ...request.headers }, lookup: lookup as never },
      (incoming) => {
        const status = incoming.statusCode ?? 0;
        if (status >= 300 && status < 400 && incoming.headers.location) {
          incoming.destroy();
          clearTimeout(timer);
          resolve({ status, body: '', location: incoming.headers.location });
          return;
        }
        const chunks: Buffer[] = [];
        let size = 0;
        incoming.on('data', (chunk: Buffer) => {
          size += chunk.length;
          if (size > request.limit)
            outgoing.destroy(new FeedFailure(`The answer is larger than ${Math.round(request.limit / 1000)} kilobytes.`, false));
          else chunks.push(chunk);
        });
        incoming.on('end', () => {
          clearTimeout(timer);
          resolve({ status, body: Buffer.concat(chunks).toString('utf8'), location: null });
        });
        incoming.on('error', fail);
      },
    );
    const timer = setTimeout(() => outgoing.destroy(late), Math.max(1, deadline - Date.now()));
    function fail(error: Error): void {
      clearTimeout(timer);
      reject(
        error instanceof FeedFailure
          ? error
          : new FeedFailure(`The service could not be reached (${(error as { code?: string }).code ?? error.message}).`, true),
      );
    }
    outgoing.on('error', fail);
    if (request.body !== null) outgoing.write(request.body);
    outgoing.end();
  });
}
