import { contract } from '../../core/contract/index.ts';
import { type RouteSpec, pathOf } from '../../core/contract/define.ts';
import { sessionToken } from '../utils/cookie';

/*
 * What a page will ask for first is named in the page, so that it is read while the script still comes. Only for whoever has a cookie of
 * a session; what they may not see is refused to them as ever.
 */
type Ask = readonly [route: Pick<RouteSpec, 'path'>, params: Readonly<Record<string, string>>];

/** The requests of the screen at this address, where it is one of those that are opened cold. */
function asked(path: string): readonly Ask[] {
  const all: Ask[] = [[contract.session.read, {}], [contract.workspace.read, {}]]; // prettier-ignore
  const entry = /^\/entry\/([a-z0-9_]+)\/(new|\d+)$/.exec(path);
  if (entry) {
    const [, key, id] = entry as unknown as [string, string, string];
    all.push(id === 'new' ? [contract.entries.begin, { key }] : [contract.entries.open, { key, id }]);
  }
  const design = /^\/design\/forms\/([a-z0-9_]+)$/.exec(path);
  if (design) all.push([contract.forms.draft, { key: design[1]! }]);
  return all;
}

export default defineNitroPlugin((nitro) => {
  nitro.hooks.hook('render:html', (html, { event }) => {
    // the path as it was sent, whatever host was sent with it; one with a query opens something else
    const { path } = event;
    if (sessionToken(event) === null || path.includes('?') || path === '/sign-in') return;
    html.head.push(
      ...asked(path).map(([route, params]) => `<link rel="preload" as="fetch" crossorigin href="/api/${pathOf(route, params)}">`),
    );
  });
});
