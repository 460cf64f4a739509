import { addVitePlugin, defineNuxtModule } from 'nuxt/kit';

/*
 * Files of the browser's script that ask for each other come in an order of chance: what one takes from the other may be nothing yet, and a
 * part that extends another is then drawn as nothing, without an error. Such a build fails.
 */

/** Files that ask for each other in a ring, beginning and ending with the same; null where none do. Takes what each asks for. */
export function ringAmong(asks: ReadonlyMap<string, readonly string[]>): readonly string[] | null {
  const done = new Set<string>();
  const way: string[] = [];
  const follow = (file: string): readonly string[] | null => {
    if (way.includes(file)) return [...way.slice(way.indexOf(file)), file];
    if (done.has(file)) return null;
    way.push(file);
    for (const next of asks.get(file) ?? []) {
      const ring = follow(next);
      if (ring) return ring;
    }
    way.pop();
    done.add(file);
    return null;
  };
  for (const file of asks.keys()) {
    const ring = follow(file);
    if (ring) return ring;
  }
  return null;
}

interface Written {
  readonly type: string;
  readonly fileName: string;
  readonly name?: string;
  readonly imports?: readonly string[];
}
/** What is wrong with the files that were written, as a sentence; null when nothing is. */
export function ringProblem(bundle: Readonly<Record<string, Written>>): string | null {
  const files = Object.values(bundle).filter((f) => f.type === 'chunk');
  const ring = ringAmong(new Map(files.map((f) => [f.fileName, f.imports ?? []])));
  if (!ring) return null;
  const names = ring.map((file) => `${file} (${files.find((f) => f.fileName === file)?.name ?? ''})`);
  return `Files of the script ask for each other: ${names.join(' → ')}. See scriptOf in nuxt.config.ts.`;
}

export default defineNuxtModule({
  meta: { name: 'script-cycles' },
  setup() {
    addVitePlugin(
      {
        name: 'no-rings-among-files',
        generateBundle(_, bundle) {
          const problem = ringProblem(bundle);
          if (problem !== null) this.error(problem);
        },
      },
      { server: false },
    );
  },
});
