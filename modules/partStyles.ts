import { existsSync, readFileSync, readdirSync } from 'node:fs';
import { createRequire } from 'node:module';
import { Theme } from '@primeuix/styled';
import { addTemplate, addVitePlugin, defineNuxtModule } from 'nuxt/kit';
import theme from '../app/theme/theme';

/*
 * The styles of PrimeVue's parts as one file, made when the application is built: the browser keeps it, and nothing of them is in the
 * script or worked out while a page opens. Without this each page carries 70 style elements, the whole theme stands in the script, and
 * every single part works its styles through again as it is mounted.
 */

const require = createRequire(import.meta.url);

/** What `primevue/<part>/style` gives, each as `<style …>rules</style>`. */
interface PartStyle {
  readonly name: string;
  getStyleSheet(): string;
  getCommonThemeStyleSheet(): string;
  getThemeStyleSheet(): string;
  getLayerOrderThemeCSS(): string;
}

/** The texts of the rules: in the file, so not in the script as well. */
const STYLES = /\/@primeuix\/styles\/dist\/[a-z]+\/index\.mjs$/;

const isPart = (name: string): boolean => existsSync(new URL(`../node_modules/primevue/${name}/index.mjs`, import.meta.url));

/** The parts that the application's templates and scripts name, by the names of their folders. */
export function partsNamed(folder: string): string[] {
  const files = readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter((f) => /\.(vue|ts)$/.test(f));
  const names = files.flatMap((f) => {
    const text = readFileSync(`${folder}/${f}`, 'utf8');
    const tags = f.endsWith('.vue') ? [...text.matchAll(/<([A-Z][A-Za-z]+)/g)] : [];
    return [...tags, ...text.matchAll(/(?:from |import\()'primevue\/([a-z]+)'/g)].map((m) => m[1]!.toLowerCase());
  });
  return [...new Set(names)].filter(isPart).sort();
}

/** With the parts that these are made of: a Select holds a VirtualScroller, a DataTable a Paginator. */
export function withTheirParts(parts: readonly string[]): string[] {
  const found = new Set<string>();
  const open = [...parts];
  for (let name = open.pop(); name !== undefined; name = open.pop()) {
    if (found.has(name)) continue;
    found.add(name);
    const script = readFileSync(require.resolve(`primevue/${name}`).replace(/\.(c?js)$/, '.mjs'), 'utf8');
    open.push(...[...script.matchAll(/from 'primevue\/([a-z]+)'/g)].map((m) => m[1]!).filter(isPart));
  }
  return [...found].sort();
}

async function styleOf(path: string): Promise<PartStyle | undefined> {
  const file = new URL(`../node_modules/${path}/index.mjs`, import.meta.url);
  return existsSync(file) ? ((await import(file.href)) as { default: PartStyle }).default : undefined;
}

/** All rules of these parts, in the order in which PrimeVue would put them into a page. */
export async function rulesOf(parts: readonly string[]): Promise<string> {
  Theme.setTheme(theme);
  const base = (await styleOf('@primevue/core/base/style'))!;
  const styles = [base];
  for (const path of ['@primevue/core/basecomponent/style', ...parts.map((p) => `primevue/${p}/style`)]) {
    const style = await styleOf(path);
    if (style) styles.push(style);
  }
  const sheets = [...styles.map((s) => s.getStyleSheet()), base.getCommonThemeStyleSheet(), ...styles.map((s) => s.getThemeStyleSheet())];
  return [`${base.getLayerOrderThemeCSS()};`, ...sheets].join('\n').replaceAll(/<\/?style[^>]*>/g, '\n');
}

export default defineNuxtModule({
  meta: { name: 'part-styles' },
  setup(_options, nuxt) {
    const { dst } = addTemplate({
      filename: 'partStyles.css',
      write: true,
      getContents: () => rulesOf(withTheirParts(partsNamed(`${nuxt.options.rootDir}/app`))),
    });
    nuxt.options.css.unshift(dst);
    // each part belongs to what names it, not to a file of its own that every page knows of
    nuxt.hook('components:extend', (components) => {
      for (const c of components) if (c.filePath.startsWith('primevue/')) c.global = false;
    });
    addVitePlugin({
      name: 'part-styles-not-in-script',
      enforce: 'pre',
      load: (id) => (STYLES.test(id) ? "export const style = '';" : undefined),
    });
  },
});
