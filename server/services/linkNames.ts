import type { Plan } from '../../core/engine/plan.ts';
import { namesNow } from '../../core/form/follow.ts';
import { versionOrNull } from './forms';
import type { Workspace } from './workspace';

/** How many versions back a name is looked for. */
const BACK = 50;
interface Former {
  readonly version: number;
  readonly names: ReadonlyMap<string, string>;
}
/** by workspace and form: the names that fields had before, each with the field's name now */
const formerOf = new WeakMap<Workspace, Map<string, Former>>();

/** Where several versions had a name, the newest of them counts. */
async function formerNames(ws: Workspace, key: string, version: number, plan: Plan): Promise<Former['names']> {
  const kept = formerOf.get(ws) ?? new Map<string, Former>();
  formerOf.set(ws, kept);
  const known = kept.get(key);
  if (known?.version === version) return known.names;
  const names = new Map<string, string>();
  for (let n = version - 1; n >= Math.max(1, version - BACK); n--) {
    const before = await versionOrNull(ws, key, n);
    for (const [name, field] of before ? namesNow(before, plan.form) : []) if (!names.has(name)) names.set(name, field);
  }
  kept.set(key, { version, names });
  return names;
}

/**
 * Of names in an address that no field has now, those that a field had in a version before, with its name now. So a label printed
 * last year still opens its form filled in. A field that the address also names by its name of now is not given twice.
 */
export async function renamedNames(
  ws: Workspace,
  form: { readonly key: string; readonly version: number; readonly plan: Plan },
  names: readonly string[],
): Promise<Record<string, string>> {
  const unknown = names.filter((n) => n !== 'parent' && !form.plan.slots.has(n));
  if (!unknown.length) return {};
  const former = await formerNames(ws, form.key, form.version, form.plan);
  return Object.fromEntries(
    unknown.flatMap((n) => {
      const field = former.get(n);
      return field !== undefined && !names.includes(field) ? [[n, field] as const] : [];
    }),
  );
}
