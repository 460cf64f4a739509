import type { ColumnType } from '~~/core/values/kinds/index.ts';

/** How a type of column is entered and how it stands in tables: the screen's part of a type. */
export interface ColumnLook {
  readonly control: 'typed' | 'choice' | 'yesno' | 'file';
  /** of a column in a table, where it is not as others */
  readonly width?: 'narrow' | 'wide';
  /** figures stand at the right end, typed with the keys for figures */
  readonly figures?: boolean;
  /** lines of the box it is typed into, where there is more than one */
  readonly lines?: number;
  readonly mono?: boolean;
  readonly calendar?: 'date' | 'time' | 'datetime';
  /** the keys up and down go a day on and back */
  readonly steps?: boolean;
  readonly placeholder?: string;
  /** what a field of it is called in a sentence, where that is not its label */
  readonly called?: string;
}

export const COLUMN_LOOKS: Readonly<Record<ColumnType, ColumnLook>> = {
  text: { control: 'typed', width: 'wide' },
  longtext: { control: 'typed', width: 'wide', lines: 2 },
  number: { control: 'typed', width: 'narrow', figures: true },
  date: { control: 'typed', width: 'narrow', calendar: 'date', steps: true, placeholder: 'day.month.year' },
  time: { control: 'typed', calendar: 'time' },
  datetime: { control: 'typed', calendar: 'datetime' },
  yesno: { control: 'yesno', width: 'narrow', called: 'yes or no' },
  choice: { control: 'choice' },
  choices: { control: 'choice' },
  link: { control: 'choice', width: 'wide' },
  links: { control: 'choice', width: 'wide' },
  person: { control: 'choice', width: 'wide' },
  file: { control: 'file' },
  files: { control: 'file' },
  json: { control: 'typed', lines: 4, mono: true },
};
