import type { z } from 'zod';
import type {
  checkSchema,
  fieldSchema,
  formSchema,
  linesSchema,
  pageSchema,
  sectionSchema,
  valueMapSchema,
  wordsSchema,
} from './schemas.ts';

/*
 * A form definition: one JSON document, plain data, readable by a person. Conditions and values are formula text.
 * Defaults are filled in when it is parsed, so that everything behind the parser sees every property.
 */

export type Form = z.infer<typeof formSchema>;
export type Field = z.infer<typeof fieldSchema>;
export type ValueMapDefinition = z.infer<typeof valueMapSchema>;
export type Section = z.infer<typeof sectionSchema>;
export type Page = z.infer<typeof pageSchema>;
export type Words = z.infer<typeof wordsSchema>;
export type Check = z.infer<typeof checkSchema>;
export type Lines = z.infer<typeof linesSchema>;

/** The keys of the fields and lines in the order of pages, columns and sections: the order people read and fill. */
export const placedOrder = (form: Form): readonly string[] =>
  form.pages.flatMap((p) => columnsOf(p).flatMap((c) => c.flatMap((s) => s.fields)));
/** The sections of a page by the columns they stand in, from left to right; columns without any are none. */
export const columnsOf = (page: Page): readonly (readonly Section[])[] =>
  [1, 2, 3].map((n) => page.sections.filter((s) => s.column === n)).filter((c) => c.length > 0);
/** The keys of the form's own fields in that order. */
export const fieldOrder = (form: Form): readonly string[] => placedOrder(form).filter((k) => form.fields[k] !== undefined);
/** The keys of the lines in that order. */
export const linesOrder = (form: Form): readonly string[] => placedOrder(form).filter((k) => form.lines[k] !== undefined);

/** A field by its path: `species`, or `lots.grams` for a field of lines. */
export function fieldAt(form: Form, path: string): Field | undefined {
  const [key = '', inner] = path.split('.');
  return inner === undefined ? form.fields[key] : form.lines[key]?.fields[inner];
}
