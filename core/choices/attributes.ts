import { candidatesOf } from './json.ts';
import { type Result, Waiting } from '../formula/errors.ts';
import type { Type } from '../values/typing.ts';
import { writeOut } from '../formula/write.ts';
import type { Datum, Row } from '../values/types.ts';
import type { OfferWorld } from '../engine/offers.ts';

/**
 * What one value has, as candidates: of a row its columns (value the column's name, label its label, `holds` what stands
 * there, written out; links as the row's shown column), of JSON its keys or items. Waiting while a row is being fetched.
 */
export function attributesOf(type: Type, value: Datum, world: OfferWorld): readonly Row[] | Waiting {
  if (type.kind === 'json') {
    try {
      return typeof value === 'string' ? candidatesOf(JSON.parse(value)) : [];
    } catch {
      return [];
    }
  }
  if (type.kind !== 'row' || typeof value !== 'number') return [];
  const shape = world.plan.scope.tables.get(type.table);
  const row = world.env.row(type.table, value);
  if (row instanceof Waiting) return row;
  if (!row || !shape) return [];
  const rows: Row[] = [];
  let waiting = false;
  for (const column of shape.columns.values()) {
    if (column.key === 'id') continue;
    const holds = written(row[column.key] ?? null, column.type, world);
    if (holds instanceof Waiting) waiting = true;
    rows.push({ id: rows.length + 1, value: column.key, label: column.label, holds: holds instanceof Waiting ? null : (holds as Datum) });
  }
  return waiting ? Waiting.value : rows;
}

function written(value: Datum, type: Type, world: OfferWorld): Result {
  if (value === null || type.kind !== 'row' || typeof value !== 'number') return value === null ? null : writeOut(value, type);
  const shown = world.plan.scope.tables.get(type.table)?.shown ?? null;
  const row = world.env.row(type.table, value);
  if (row instanceof Waiting) return row;
  return shown && row ? writeOut(row[shown] ?? null, { kind: 'text' }) : String(value);
}
