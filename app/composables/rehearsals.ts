import type { Answer, Result } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import { readCell } from '~~/core/exchange/columns.ts';
import { type Form, fieldAt } from '~~/core/form/definition.ts';
import type { RehearsalValue } from '~~/core/form/rehearsal.ts';
import { isSeveral } from '~~/core/model/tables.ts';

export type KeptRehearsal = Answer<typeof contract.rehearsals.list>[number];
export type RanRehearsal = Result<typeof contract.rehearsals.run>['results'][number];

/** A value as somebody types it in a rehearsal: rows and choices by what they are called, several apart by semicolons. */
export function typedValue(form: Form, path: string, text: string): RehearsalValue {
  const field = fieldAt(form, path);
  const plain = text.trim();
  if (plain === '' || !field) return plain === '' ? null : plain;
  if (isSeveral(field.type)) return plain.split(';').map((t) => t.trim()).filter(Boolean); // prettier-ignore
  if (field.source) return plain;
  const read = readCell(field.type, plain);
  return read.ok ? (read.value as RehearsalValue) : plain;
}
/** The same as text, to be typed over. */
export const writtenValue = (value: RehearsalValue): string =>
  value === null ? '' : Array.isArray(value) ? value.join('; ') : typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value);

/** How one came out when it was run last. */
export type RehearsalState = 'green' | 'red' | 'none';
/** The rehearsals of a form on a screen: read, run on the draft, and what came of each. */
export function useRehearsals(form: () => string) {
  const all = shallowRef<readonly KeptRehearsal[]>([]);
  const results = shallowRef<ReadonlyMap<number, RanRehearsal>>(new Map());
  const took = ref<number | null>(null);
  const running = useJob('rehearsing');
  /** Throws ApiError. */
  async function load(): Promise<void> {
    all.value = await api.rehearsals.list({ key: form() });
    const there = new Set(all.value.map((r) => r.id));
    results.value = new Map([...results.value].filter(([id]) => there.has(id)));
  }
  /** Runs all, or those named. Throws ApiError. */
  async function run(ids?: number[]): Promise<void> {
    const ran = await running.run(() => api.rehearsals.run({ key: form() }, { ids }));
    if (!ran) return;
    results.value = new Map([...results.value, ...ran.results.map((r) => [r.id, r] as const)]);
    took.value = ran.milliseconds;
  }
  function stateOf(id: number): RehearsalState {
    const result = results.value.get(id);
    return result ? (result.ok ? 'green' : 'red') : 'none';
  }
  const came = (ok: boolean): number => [...results.value.values()].filter((r) => r.ok === ok).length;
  return { all, results, took, running, load, run, stateOf, red: computed(() => came(false)), green: computed(() => came(true)) };
}
