import type { ResultOf } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';

type Columns = Exclude<Guessed, { package: unknown }>;
/** A column of the file, as it is to be brought in; left out when it is not taken. */
export type ImportColumn = Columns['columns'][number] & { take: boolean };
export type ImportGuess = Omit<Columns, 'columns'> & { columns: ImportColumn[] };
type Guessed = ResultOf<typeof contract.imports.guess>;
export type PackageLook = Extract<Guessed, { package: unknown }>['package'];
export type ImportCheck = ResultOf<typeof contract.imports.check>;
export type UnmatchedText = ImportCheck['unmatched'][string][number];
export type Repair = { to: number } | { empty: true } | { add: true };
export type Repairs = Record<string, Record<string, Repair>>;
