import { type Binding, type Scope } from '../formula/scope.ts';
import * as T from '../values/typing.ts';

/** What the condition of a subset may name: the row, the person signed in; no field of any form. */
export function subsetScope(scope: Pick<Scope, 'tables'>, table: string): Scope {
  const me: Binding = { name: 'me', label: 'The person signed in', type: T.rowOf('people'), source: { kind: 'me' } };
  const choice: Binding = { name: 'choice', label: 'The row', type: T.rowOf(table), source: { kind: 'candidate' } };
  return { tables: scope.tables, bindings: new Map([me, choice].map((b) => [b.name, b])) };
}
