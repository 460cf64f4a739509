import type { EntryCount } from '../../core/evidence/entryUse.ts';
import type { Database } from './connection';

/** Adds counts of how a form was entered. Of texts a field keeps so many, the first; others are counted as none. Call inside a transaction. */
export async function addEntryCounts(db: Database, form: string, counts: readonly EntryCount[], mostTexts: number): Promise<void> {
  for (const { version, field, what, value, count } of counts) {
    const key = { form_key: form, version, field, what };
    const known = await db('entry_counts').where({ ...key, value }).first('count'); // prettier-ignore
    const isText = what === 'searched' || what === 'nothing';
    const full = !known && isText && value !== '' && (await textsIn(db, key)) >= mostTexts;
    await db('entry_counts')
      .insert({ ...key, value: full ? '' : value, count })
      .onConflict(['form_key', 'version', 'field', 'what', 'value'])
      .merge({ count: db.raw('entry_counts.count + excluded.count') });
  }
}
const textsIn = async (db: Database, key: object): Promise<number> =>
  Number(((await db('entry_counts').where(key).count({ n: '*' })) as { n: number }[])[0]?.n ?? 0);

/** What was counted of a form, of one version or all. */
export async function entryCounts(db: Database, form: string, version: number | null): Promise<EntryCount[]> {
  const asked = db('entry_counts').where({ form_key: form });
  return (await (version === null ? asked : asked.where({ version })).select('version', 'field', 'what', 'value', 'count')) as EntryCount[];
}
