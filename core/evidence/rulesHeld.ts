import type { Entry } from '../engine/entry.ts';
import type { Env } from '../formula/env.ts';
import { wantsNeeded } from '../engine/needed.ts';

/**
 * The rules whose condition holds in an entry, or cannot be told, by their ids; those without a condition are left out. Yields while the
 * entry waits for data. Nothing is changed.
 */
export function* conditionsHeld(entry: Entry): Generator<void, readonly string[]> {
  while (wantsNeeded(entry).length) yield;
  const { plan } = entry;
  const env = rootOf(entry);
  return plan.form.rules.flatMap(({ id, when }) => {
    const written = when === null ? undefined : plan.written.find((w) => w.path === `@${id}` && w.part === 'when');
    if (!written || !env) return [];
    let held = true;
    // what this wanted is asked for by nobody
    entry.wantedBy(() => {
      held = written.formula.run(env) !== false;
    });
    return held ? [id] : [];
  });
}
function rootOf(entry: Entry): Env | null {
  let env: Env | null = null;
  entry.eachField((_, frame) => {
    if (frame.line === null) env = frame.env;
  });
  return env;
}
