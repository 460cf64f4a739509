import { type Server, createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { FeedFailure, askOutside, isAllowed, isPrivateAddress } from './request';

/* A service that behaves badly in every way, on this machine: its address is private, so it must be allowed by name. */
let server: Server;
let port: number;
let asked: string[] = [];
/** what the last question brought along */
let heard: { method: string; key: string | undefined; body: string } = { method: '', key: undefined, body: '' };
beforeAll(async () => {
  server = createServer((request, response) => {
    asked.push(request.url ?? '');
    switch (request.url) {
      case '/good':
        response.end('{"items": [1]}');
        break;
      case '/endless': {
        response.writeHead(200);
        const pour = setInterval(() => response.write('x'.repeat(50_000)), 1);
        response.on('close', () => clearInterval(pour));
        break;
      }
      case '/silent':
        break;
      case '/dripping': {
        response.writeHead(200);
        const drip = setInterval(() => response.write(' '), 20);
        response.on('close', () => clearInterval(drip));
        break;
      }
      case '/away':
        response.writeHead(302, { location: 'http://elsewhere.example/secret' }).end();
        break;
      case '/inside':
        response.writeHead(302, { location: `http://127.0.0.1:${port}/good` }).end();
        break;
      case '/round':
        response.writeHead(302, { location: '/round' }).end();
        break;
      case '/none':
        response.writeHead(302, { location: 'http://[' }).end();
        break;
      case '/see':
        response.writeHead(303, { location: '/heard' }).end();
        break;
      case '/other':
        response.writeHead(307, { location: `http://127.0.0.1:${port}/heard` }).end();
        break;
      case '/heard': {
        let body = '';
        request.on('data', (c: Buffer) => (body += c.toString()));
        request.on('end', () => {
          heard = { method: request.method ?? '', key: request.headers['x-key'] as string | undefined, body };
          response.end('[]');
        });
        break;
      }
      case '/same':
        response.writeHead(307, { location: '/heard' }).end();
        break;
      case '/on':
        response.writeHead(307, { location: '/good' }).end();
        break;
      case '/cut':
        response.writeHead(200, { 'content-length': '1000' });
        response.write('{');
        setTimeout(() => response.destroy(), 10);
        break;
      default:
        response.writeHead(404).end('no');
    }
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  ({ port } = server.address() as AddressInfo);
});
afterAll(() => {
  server.closeAllConnections();
  server.close();
});

const ask = (path: string, hosts: readonly string[] = [`!localhost:${port}`], more: { timeout?: number; limit?: number } = {}) =>
  askOutside(
    { url: `http://localhost:${port}${path}`, method: 'GET', headers: {}, body: null, timeout: 2000, limit: 100_000, ...more },
    hosts,
  );
const failure = async (work: Promise<unknown>): Promise<FeedFailure> => {
  try {
    await work;
  } catch (e) {
    if (e instanceof FeedFailure) return e;
    throw e;
  }
  throw new Error('it was answered');
};

describe('which hosts are asked', () => {
  test.each([
    ['https://data.example.org/x', ['data.example.org'], true],
    ['https://DATA.example.org/x', ['data.example.org'], true],
    ['https://data.example.org:8443/x', ['data.example.org'], true],
    ['https://data.example.org:8443/x', ['data.example.org:443'], false],
    ['https://a.example.org/', ['*.example.org'], true],
    ['https://example.org/', ['*.example.org'], false],
    ['https://evilexample.org/', ['*.example.org'], false],
    ['https://example.org.evil.net/', ['example.org'], false],
    ['https://user@evil.net/example.org', ['example.org'], false],
  ])('%s by %j: %s', (url, hosts, allowed) => {
    expect(isAllowed(new URL(url), hosts).allowed).toBe(allowed);
  });
  test.each(['127.0.0.1', '10.1.2.3', '172.20.0.1', '192.168.1.1', '169.254.169.254', '0.0.0.0', '::1', 'fe80::1', 'fd00::1', '::ffff:127.0.0.1'])('%s is private', (address) => {
    expect(isPrivateAddress(address)).toBe(true);
  }); // prettier-ignore
  test.each(['8.8.8.8', '172.32.0.1', '2001:4860::1'])('%s is not', (address) => {
    expect(isPrivateAddress(address)).toBe(false);
  });

  test('a host that is not on the list is not even asked', async () => {
    asked = [];
    expect((await failure(ask('/good', []))).message).toMatch(/not among the hosts that may be asked/);
    expect((await failure(ask('/good', ['other.example']))).again).toBe(false);
    // on the list, but in a private network and not allowed there
    expect((await failure(ask('/good', [`localhost:${port}`]))).message).toMatch(/private/i);
    expect(asked).toEqual([]);
  });
  test('only http and https', async () => {
    const file = askOutside({ url: 'file:///etc/passwd', method: 'GET', headers: {}, body: null, timeout: 500, limit: 10 }, ['*']);
    expect((await failure(file)).again).toBe(false);
  });
});

describe('what is answered', () => {
  test('an answer, also after being sent on within the host', async () => {
    expect(await ask('/good')).toMatchObject({ status: 200, body: '{"items": [1]}' });
    expect(await ask('/on')).toMatchObject({ status: 200 });
    expect(await ask('/nothing')).toMatchObject({ status: 404 });
  });
  test('sent on to a host that is not allowed, to a private address, round and round', async () => {
    expect((await failure(ask('/away'))).message).toMatch(/elsewhere\.example/);
    expect((await failure(ask('/inside'))).again).toBe(false);
    expect((await failure(ask('/round'))).message).toMatch(/more than 3 times/);
  });
  test('secrets and what was sent are not told to another host that it sends us on to', async () => {
    const post = (path: string) =>
      askOutside(
        {
          url: `http://localhost:${port}${path}`,
          method: 'POST',
          headers: { 'X-Key': 'secret' },
          body: '{"q":1}',
          timeout: 2000,
          limit: 1000,
        },
        [`!localhost:${port}`, `!127.0.0.1:${port}`],
      );
    await post('/same');
    expect(heard).toEqual({ method: 'POST', key: 'secret', body: '{"q":1}' });
    await post('/see');
    expect(heard).toEqual({ method: 'GET', key: 'secret', body: '' });
    await post('/other');
    expect(heard).toEqual({ method: 'GET', key: undefined, body: '' });
    expect((await failure(post('/none'))).message).toMatch(/something that is no address/);
  });
  test('a header that cannot be sent is a failure with a sentence', async () => {
    const e = await failure(askOutside({ url: `http://localhost:${port}/good`, method: 'GET', headers: { 'X-Key': 'Schlüssel\u0000' }, body: null, timeout: 500, limit: 1000 }, [`!localhost:${port}`])); // prettier-ignore
    expect(e.message).toMatch(/cannot be asked so/);
  });
  test('an endless answer is cut off at the limit', async () => {
    const e = await failure(ask('/endless', undefined, { limit: 200_000, timeout: 5000 }));
    expect(e.message).toMatch(/larger than 200 kilobytes/);
  });
  test.each(['/silent', '/dripping'])('%s: the time limit is for the whole of it', async (path) => {
    const e = await failure(ask(path, undefined, { timeout: 200 }));
    expect(e.message).toMatch(/within 0\.2 seconds/);
    expect(e.again).toBe(true);
  });
  test('an answer that breaks off may be tried again', async () => {
    expect((await failure(ask('/cut'))).again).toBe(true);
  });
});
