import { keysOfJson } from '../choices/json.ts';
import { type Narrowing, narrowingOf } from '../choices/narrowing.ts';
import { isFolded } from '../choices/order.ts';
import type { Field, FieldSource } from '../form/definition.ts';
import { type Feed, feedMembers } from '../form/feeds.ts';
import { OPTION_COLUMNS, levelsOf, optionRowsOf } from '../form/lists.ts';
import { type FieldPart, type FormProblem, formProblem } from '../form/problems.ts';
import { type Column, type Table, columnOf, isSeveral } from '../form/tables.ts';
import { type Formula, formula } from '../formula/formula.ts';
import { type Binding, type Scope, withBinding } from '../formula/scope.ts';
import * as T from '../values/typing.ts';
import type { Type } from '../values/typing.ts';
import type { Row } from '../values/types.ts';
import type { PlanAsk, PlanChoices } from './plan.ts';
import type { World } from './scopes.ts';

type SourceOf<K extends FieldSource['kind']> = Extract<FieldSource, { kind: K }>;
type CompileFormula = (path: string, part: FieldPart, text: string | null, expected: Type | null, scope?: Scope) => Formula | null;

/** Types that choose, and what a candidate of them stores. */
const STORES: Partial<Record<Field['type'], PlanChoices['stores']>> = {
  link: 'row',
  links: 'row',
  person: 'row',
  choice: 'value',
  choices: 'value',
};

type Uncounted = Omit<PlanChoices, 'fills'>;
function fillsOf({ source, narrowing, values, large }: Uncounted): readonly number[] {
  if (!source.fillUp || (values !== null && large)) return [];
  return [...new Set((narrowing?.parts ?? []).flatMap((p) => (p.equates ? [p.equates.slot] : [])))];
}

/** Compiles where a field's choices come from: looks everything up, says what is missing. */
export class SourceCompiler {
  constructor(
    private readonly world: World,
    private readonly scope: Scope,
    private readonly problems: FormProblem[],
    private readonly formula: CompileFormula,
  ) {}

  choices(path: string, definition: Field): PlanChoices | null {
    const choices = this.compiled(path, definition);
    return choices && { ...choices, fills: fillsOf(choices) };
  }

  private compiled(path: string, definition: Field): Uncounted | null {
    const { source, type } = definition;
    const stores = STORES[type];
    if (!stores) return null;
    if (!source) return this.note(path, 'noSource', 'Nothing says yet where the choices come from.');
    switch (source.kind) {
      case 'rows':
        return this.rows(path, definition, source, stores);
      case 'distinct':
        return this.distinct(path, source, stores);
      default:
        if (stores === 'row')
          return this.note(
            path,
            'noSource',
            `${isSeveral(type) ? 'Links' : 'A link'} can only hold rows of a table; for other choices the field must be a Choice.`,
          );
        return this.values(path, source);
    }
  }

  private note(path: string, code: FormProblem['code'], message: string, part: FieldPart = 'source'): null {
    this.problems.push(formProblem(code, path, part, message));
    return null;
  }

  /** Choices that are no rows of a table: typed, listed, from a feed, from what a row or JSON has. */
  private values(path: string, source: Exclude<FieldSource, SourceOf<'rows'> | SourceOf<'distinct'>>): Uncounted | null {
    let options: Row[] | null = null;
    let retired: Row[] = [];
    let asks: PlanAsk | null = null;
    let members: ReadonlyMap<string, Type> = new Map();
    switch (source.kind) {
      case 'options':
        options = source.options.map((o, i) => ({ id: i + 1, value: o.value, label: o.label, parent: null, level: 1, retired: false }));
        if (!options.length) this.note(path, 'noOptions', 'The list typed in place has no choices yet.');
        break;
      case 'list': {
        const list = this.world.lists.get(source.list);
        if (!list) return this.note(path, 'noTable', `There is no option list “${source.list}”.`);
        const levels = levelsOf(list);
        if (source.level !== null && source.level > levels)
          this.note(path, 'noOptions', `${list.label} has only ${levels} ${levels === 1 ? 'level' : 'levels'}.`);
        // what is retired is offered no more; a record that has it keeps it, flagged
        const rows = optionRowsOf(list, source.level);
        options = rows.filter((r) => r.retired !== true);
        retired = rows.filter((r) => r.retired === true);
        break;
      }
      case 'json': {
        const items = keysOfJson(source.text);
        if (!items.ok) return this.note(path, 'noOptions', items.message);
        options = items.rows;
        if (!options.length)
          this.note(
            path,
            'noOptions',
            'The JSON has no choices yet: write a list of texts, of objects with value and label, or an object.',
          );
        break;
      }
      case 'feed': {
        const feed = this.world.feeds.get(source.feed);
        if (!feed) return this.note(path, 'noFeed', `There is no feed “${source.feed}”.`);
        asks = this.feed(path, source, feed);
        members = feedMembers(feed);
        break;
      }
      case 'attributes':
        asks = this.attributes(path, source);
        break;
    }
    if (!options && !asks) return null;
    return {
      source, asks, options, retired,
      table: null, stores: 'value', values: null, large: false, sort: [], search: ['label'],
      narrowing: this.narrowing(path, source.where, null, this.optionScope(members)),
    }; // prettier-ignore
  }

  private feed(path: string, source: SourceOf<'feed'>, feed: Feed): PlanAsk | null {
    const params = feed.params.flatMap((p) => {
      const text = source.params[p.key]?.trim() ?? '';
      if (text === '') {
        if (p.required) this.note(path, 'noFeed', `${feed.label} needs ${p.label}: say which value it takes.`, `params.${p.key}`);
        return [];
      }
      const compiled = this.formula(path, `params.${p.key}`, text, p.type === 'text' ? null : { kind: p.type });
      return compiled ? [{ name: p.key, formula: compiled }] : [];
    });
    return feed.params.every((p) => !p.required || params.some((q) => q.name === p.key)) ? { kind: 'feed', feed: feed.key, params } : null;
  }

  private attributes(path: string, source: SourceOf<'attributes'>): PlanAsk | null {
    if (source.of.trim() === '')
      return this.note(path, 'noSource', 'Say of which row, or of which JSON, the attributes are offered.', 'of');
    const of = this.formula(path, 'of', source.of, null);
    if (!of) return null;
    if (of.type.kind !== 'row' && of.type.kind !== 'json')
      return this.note(path, 'noSource', `Attributes are those of a row or of JSON; this is ${T.typeInWords(of.type)}.`, 'of');
    return { kind: 'attributes', of };
  }

  /** The values of a text column, each once. */
  private distinct(path: string, source: SourceOf<'distinct'>, stores: PlanChoices['stores']): Uncounted | null {
    const table = this.world.tables.get(source.table);
    if (!table) return this.note(path, 'noTable', `There is no table “${source.table}”.`);
    if (stores !== 'value') return this.note(path, 'noSource', 'Values of a column need a field of type Choice.');
    if (source.values === null) return this.note(path, 'noShownColumn', `Say which column of ${table.label} the choices are values of.`);
    const column = columnOf(table, source.values);
    if (!column || !isFolded(column.type)) return this.note(path, 'noColumn', `${table.label} has no text column “${source.values}”.`);
    return {
      source, stores,
      table: source.table, options: null, asks: null, values: column.key, large: table.large, sort: [column], search: ['label'],
      narrowing: this.narrowing(path, source.where, this.subset(path, table, source.subset), this.candidateScope(source.table)),
    }; // prettier-ignore
  }

  private rows(path: string, definition: Field, source: SourceOf<'rows'>, stores: PlanChoices['stores']): Uncounted | null {
    const table = this.world.tables.get(source.table);
    if (!table || stores === 'value')
      return this.note(
        path,
        'noTable',
        table ? 'Rows of a table are stored by a field of type Link to a row.' : `There is no table “${source.table}”.`,
      );
    if (definition.type === 'person' && source.table !== 'people') this.note(path, 'noTable', 'A person is a row of People.');
    for (const column of [source.show, ...source.beside, ...source.search, ...source.sort])
      if (column !== null && !columnOf(table, column)) this.note(path, 'noColumn', `${table.label} has no column “${column}”.`);
    if (source.show === null) {
      const message = `No column of ${table.label} is shown, so the list would be blank. Choose the column people know the rows by.`;
      this.note(path, 'noShownColumn', message);
    }
    const columns = (names: readonly string[]): Column[] => names.map((n) => columnOf(table, n)).filter((c) => c !== undefined);
    const sort = source.sort.length ? source.sort : source.show ? [source.show] : [];
    const search = source.search.length ? source.search : source.show ? [source.show, ...source.beside] : [];
    return {
      source, stores,
      table: source.table, options: null, asks: null, values: null, large: table.large,
      sort: columns(sort),
      search: columns(search).filter((c) => isFolded(c.type)).map((c) => c.key),
      shownAs: this.shownAs(path, source),
      narrowing: this.narrowing(path, source.where, this.subset(path, table, source.subset), this.candidateScope(source.table)),
    }; // prettier-ignore
  }

  /** The text rows are shown by. It says what the row is: it may not depend on the entry around it. */
  private shownAs(path: string, source: SourceOf<'rows'>): Formula | null {
    if (source.shownAs === null) return null;
    const compiled = this.formula(path, 'shownAs', source.shownAs, T.TEXT, subsetScope(this.scope, source.table));
    if (!compiled) return null;
    if ([...compiled.bindings.values()].every((b) => b.source.kind === 'candidate')) return compiled;
    return this.note(path, 'noShownColumn', 'What a row is shown as may only name the row itself: choice and its columns.', 'shownAs');
  }

  /** The condition of a subset, or null when all rows are meant; a subset that is broken or gone is said. */
  private subset(path: string, table: Table, key: string | null): string | null {
    if (key === null) return null;
    const subset = table.subsets?.find((s) => s.key === key);
    if (!subset) return this.note(path, 'noSubset', `${table.label} has no subset “${key}”.`);
    const broken = formula(subset.condition, subsetScope(this.scope, table.key), T.YESNO).problems.find((p) => p.severity === 'error');
    if (broken) return this.note(path, 'noSubset', `The subset ${subset.label} of ${table.label} has a mistake: ${broken.message}`);
    return subset.condition;
  }

  /** A narrowing; the condition of a subset stands before the field's own, so that the funnel counts it first. */
  private narrowing(path: string, where: string | null, subset: string | null, scope: Scope): Narrowing | null {
    const own = this.formula(path, 'where', where, T.YESNO, scope);
    if (subset === null) return own && narrowingOf(own);
    return narrowingOf(formula(own ? `(${subset}) AND (${own.text})` : subset, scope, T.YESNO));
  }

  /** The scope of a narrowing: `choice` is the candidate row. */
  private candidateScope(table: string): Scope {
    return withBinding(this.scope, { name: 'choice', label: 'The row on offer', type: T.rowOf(table), source: { kind: 'candidate' } });
  }

  /** Candidates that are no rows have a value, a label and what their source gives besides. */
  private optionScope(members: ReadonlyMap<string, Type>): Scope {
    const plain = OPTION_COLUMNS.map((k): [string, Type] => [k, k === 'level' ? T.NUMBER : k === 'retired' ? T.YESNO : T.TEXT]);
    const columns = new Map([...plain, ...members].map(([key, type]) => [key, { key, label: key, type }]));
    const shape = { key: OPTION_ROWS, label: 'the list', shown: 'label', columns };
    const scope = this.candidateScope(OPTION_ROWS);
    return { ...scope, tables: new Map(scope.tables).set(OPTION_ROWS, shape) };
  }
}

const OPTION_ROWS = '_options';

/** What the condition of a subset may name: the row, the person signed in; no field of any form. */
export function subsetScope(scope: Pick<Scope, 'tables'>, table: string): Scope {
  const me: Binding = { name: 'me', label: 'The person signed in', type: T.rowOf('people'), source: { kind: 'me' } };
  const choice: Binding = { name: 'choice', label: 'The row', type: T.rowOf(table), source: { kind: 'candidate' } };
  return { tables: scope.tables, bindings: new Map([me, choice].map((b) => [b.name, b])) };
}
