// @ts-expect-error -- what Nitro makes of the routes while it builds has no types
import { handlers } from '#nitro-internal-virtual/server-handlers';

const routes = handlers as readonly { readonly route?: string; readonly method?: string }[];

/** The methods that a path of the API takes, by the routes there are; none for a path that is no route's. */
export function methodsOf(path: string): string[] {
  const parts = path.split('/').filter((p) => p !== '');
  const fits = (route: string): boolean => {
    const wanted = route.split('/').filter((p) => p !== '');
    return wanted.length === parts.length && wanted.every((w, i) => w.startsWith(':') || w === parts[i]);
  };
  const found = routes.filter((h) => h.route?.startsWith('/api/') && !h.route.includes('**') && fits(h.route)).map((h) => (h.method ?? 'get').toUpperCase()); // prettier-ignore
  return [...new Set(found)].sort();
}
