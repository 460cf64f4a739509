/*
 * What SQLite and PostgreSQL say differently, in one place. Everything else is written so that both take it. Lists in a column are JSON in
 * a text in both.
 */
export interface Dialect {
  readonly name: 'sqlite' | 'postgres';
  /** behind a column of an index, so that it stands in the order rows are asked for in (see `inOrder`) */
  readonly indexed: string;
  /** a column of numbers */
  readonly number: string;
  /** a column of whole numbers */
  readonly integer: string;
  /** a column of texts, in the order of their code points */
  readonly text: string;
  /** the numbers of rows in a list, as a query of one column `value` */
  ids(list: string): string;
  /** the same of a list in each row of the tables before it, for FROM */
  idsOfEach(list: string, alias: string): string;
  /** whether a list has a value in it; `isText` says of what */
  holds(list: string, item: string, isText: boolean): string;
  /** how many values a list has; null where there is none */
  length(list: string): string;
  /** all values of a column of a query as one list */
  gathered(column: string): string;
  /** the values of a list of lists, for FROM: `place` of one as a type of column */
  lists(list: string, alias: string): { readonly from: string; readonly at: (place: number, type: 'number' | 'text') => string };
  /** a number that is another whenever somebody has changed the database, as `version` */
  readonly version: string;
}

const sqlite: Dialect = {
  name: 'sqlite',
  indexed: '',
  number: 'numeric',
  integer: 'integer',
  text: 'text',
  ids: (list) => `SELECT value FROM json_each(${list})`,
  idsOfEach: (list, alias) => `json_each(${list}) AS ${alias}`,
  holds: (list, item) => `EXISTS (SELECT 1 FROM json_each(${list}) WHERE value = ${item})`,
  length: (list) => `json_array_length(${list})`,
  gathered: (column) => `json_group_array(${column})`,
  lists: (list, alias) => ({ from: `json_each(${list}) AS ${alias}`, at: (place) => `${alias}.value ->> ${place}` }),
  version: 'SELECT data_version AS version FROM pragma_data_version',
};

const postgres: Dialect = {
  name: 'postgres',
  indexed: ' ASC NULLS FIRST',
  number: 'double precision',
  integer: 'bigint',
  text: 'text COLLATE "C"',
  ids: (list) => `SELECT value::bigint AS value FROM json_array_elements_text((${list})::json)`,
  idsOfEach: (list, alias) => `LATERAL (SELECT value::bigint AS value FROM json_array_elements_text((${list})::json)) AS ${alias}`,
  holds: (list, item, isText) => `(${list})::jsonb @> to_jsonb((${item})::${isText ? 'text' : 'bigint'})`,
  length: (list) => `json_array_length((${list})::json)`,
  gathered: (column) => `coalesce(json_agg(${column}), '[]'::json)::text`,
  lists: (list, alias) => ({
    from: `json_array_elements((${list})::json) AS ${alias}(value)`,
    at: (place, type) => `(${alias}.value ->> ${place})::${type === 'number' ? 'double precision' : 'text'}`,
  }),
  version: 'SELECT coalesce(sum(number), 0) AS version FROM changes',
};

/** How a database is spoken to. */
export const dialectOf = (db: { readonly client: unknown }): Dialect =>
  (db.client as { dialect?: string }).dialect === 'postgresql' ? postgres : sqlite;
