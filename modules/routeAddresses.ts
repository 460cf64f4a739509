import { addVitePlugin, defineNuxtModule } from 'nuxt/kit';
import { type RouteSpec, isRoute } from '../core/contract/define.ts';
import { contract } from '../core/contract/index.ts';

/*
 * In the browser the contract says where a route is asked and how; what is sent and answered is of its types, which are gone by then, and
 * is checked by the server. Without its schemas a third less of the core's script is read, and none of them are built while a page opens.
 */

type Told = { [name: string]: Told | ReturnType<typeof addressOf> };

/** A route without its schemas: of the body, whether there is one. */
const addressOf = ({ method, path, body }: RouteSpec) => ({ method, path, body: body !== null, query: null, answer: null, result: null });

/** The contract, or a noun of it, as the browser has it. */
export const addresses = (tree: object): Told =>
  Object.fromEntries(
    Object.entries(tree).map(([name, x]: [string, unknown]) => [name, isRoute(x) ? addressOf(x) : addresses(x as object)]),
  );

export default defineNuxtModule({
  meta: { name: 'route-addresses' },
  setup(_options, nuxt) {
    const whole = `${nuxt.options.rootDir}/core/contract/index.ts`;
    addVitePlugin({
      name: 'route-addresses',
      enforce: 'pre',
      load: (id) => (id === whole ? `export const contract = ${JSON.stringify(addresses(contract))};` : undefined),
    });
  },
});
