import { type Field, type Form, type Lines, type Page, type Section, fieldAt } from './definition.ts';
import { fieldSchema, linesSchema, pageSchema, sectionSchema } from './schemas.ts';
import { sourceStores } from '../choices/sources/index.ts';
import { type ColumnType, keyFromLabel } from '../model/tables.ts';
import { KINDS } from '../values/kinds/index.ts';
import { FORMATS_OF } from '../values/show.ts';

/*
 * Changes to a form definition, each a function from a form to a new form that shares what did not change. What the
 * Design area does with the mouse and the keyboard comes down to these; undo keeps the forms before.
 */

const mapSections = (form: Form, change: (section: Section) => Section): Form => ({
  ...form,
  pages: form.pages.map((p) => ({ ...p, sections: p.sections.map(change) })),
});

/** Where a field stands: its section and its place in it. Null when the form does not place it. */
export function placeOf(form: Form, key: string): { section: Section; index: number } | null {
  for (const section of form.pages.flatMap((p) => p.sections)) {
    const index = section.fields.indexOf(key);
    if (index >= 0) return { section, index };
  }
  return null;
}

/**
 * Adds a field at the end of a section, with a key made from its label, saved in a column of the same name (made
 * when the form is published). Gives the form and the new key. Throws RangeError when there is no such section.
 */
export function addField(form: Form, sectionId: string, label: string, type: ColumnType): { form: Form; key: string } {
  if (!form.pages.some((p) => p.sections.some((s) => s.id === sectionId))) throw new RangeError(`There is no section “${sectionId}”.`);
  const columns = Object.values(form.fields).map((f) => f.column ?? '');
  const key = keyFromLabel(label, [...Object.keys(form.fields), ...Object.keys(form.lines), ...columns]);
  const field = fieldSchema.parse({ label, type, column: key, source: firstSource(type) });
  const placed = mapSections(form, (s) => (s.id === sectionId ? { ...s, fields: [...s.fields, key] } : s));
  return { form: { ...placed, fields: { ...form.fields, [key]: field } }, key };
}

/** The source a new field of a type starts with. */
function firstSource(type: ColumnType): object | null {
  const { rows, chooses } = KINDS[type];
  if (rows !== null && rows !== 'named') return { kind: 'rows', table: rows.table, show: 'name', sort: ['name'] };
  return chooses === 'value' ? { kind: 'options', options: [] } : null;
}

/** Line items at the end of a section, kept in a child table. Gives the form and their key. */
export function addLines(
  form: Form,
  sectionId: string,
  lines: Pick<Lines, 'label' | 'table' | 'link' | 'order'>,
): { form: Form; key: string } {
  const key = keyFromLabel(lines.label, [...Object.keys(form.fields), ...Object.keys(form.lines)]);
  const made = linesSchema.parse({ ...lines, fields: {}, columns: [] });
  const placed = mapSections(form, (s) => (s.id === sectionId ? { ...s, fields: [...s.fields, key] } : s));
  return { form: { ...placed, lines: { ...form.lines, [key]: made } }, key };
}

/** Changes settings of lines; what is not named stays. */
export function changeLines(form: Form, key: string, change: Partial<Lines>): Form {
  const lines = form.lines[key];
  return lines ? { ...form, lines: { ...form.lines, [key]: { ...lines, ...change } } } : form;
}

/** Adds a field at the right end of lines. Gives the form and the path of the field. */
export function addLineField(form: Form, lines: string, label: string, type: ColumnType): { form: Form; path: string } {
  const group = form.lines[lines];
  if (!group) throw new RangeError(`There are no lines “${lines}”.`);
  const columns = Object.values(group.fields).map((f) => f.column ?? '');
  const key = keyFromLabel(label, [...Object.keys(group.fields), ...columns, group.link, group.order ?? '']);
  const field = fieldSchema.parse({ label, type, column: key, source: firstSource(type) });
  const change = { fields: { ...group.fields, [key]: field }, columns: [...group.columns, key] };
  return { form: changeLines(form, lines, change), path: `${lines}.${key}` };
}

/** Moves a field of lines one place to the left or right. */
export function nudgeLineField(form: Form, path: string, by: -1 | 1): Form {
  const [lines = '', key = ''] = path.split('.');
  const columns = form.lines[lines]?.columns ?? [];
  const at = columns.indexOf(key);
  const to = at + by;
  if (at < 0 || to < 0 || to >= columns.length) return form;
  const without = columns.filter((c) => c !== key);
  return changeLines(form, lines, { columns: [...without.slice(0, to), key, ...without.slice(to)] });
}

/** Takes a field (by path), or lines as a whole, out of the form. Formulas that name it then have a problem, which is said, not mended in silence. */
export function removeField(form: Form, path: string): Form {
  const [lines = '', inner] = path.split('.');
  const group = form.lines[lines];
  if (group && inner !== undefined) {
    const { [inner]: _, ...fields } = group.fields;
    return changeLines(form, lines, { fields, columns: group.columns.filter((c) => c !== inner) });
  }
  const without = <T>(all: Record<string, T>): Record<string, T> => Object.fromEntries(Object.entries(all).filter(([k]) => k !== path));
  return {
    ...mapSections(form, (s) => (s.fields.includes(path) ? { ...s, fields: s.fields.filter((k) => k !== path) } : s)),
    fields: without(form.fields),
    lines: without(form.lines),
  };
}

/** Changes settings of a field (by path); what is not named stays. */
export function changeField(form: Form, path: string, change: Partial<Field>): Form {
  const field = fieldAt(form, path);
  if (!field) return form;
  const [lines = '', inner] = path.split('.');
  if (inner !== undefined) return changeLines(form, lines, { fields: { ...form.lines[lines]?.fields, [inner]: { ...field, ...change } } });
  return { ...form, fields: { ...form.fields, [path]: { ...field, ...change } } };
}

/**
 * A field of another type: what the new type cannot keep (its choices, its column) is dropped; the formula stays and is
 * checked against the new type.
 */
export function changeType(form: Form, key: string, type: ColumnType, columnFits: boolean): Form {
  const field = fieldAt(form, key);
  if (!field || field.type === type) return form;
  // a type that always holds rows of one table has its own list
  const { rows, chooses } = KINDS[type];
  const keeps = field.source && sourceStores(field.source.kind) === chooses && (rows === null || rows === 'named');
  const fresh = keeps ? field.source : fieldSchema.parse({ label: 'x', type, source: firstSource(type) }).source;
  return changeField(form, key, {
    type,
    source: fresh,
    column: columnFits ? field.column : null,
    format: field.format !== null && FORMATS_OF[type]?.includes(field.format) ? field.format : null,
  });
}

/** Puts a field before the field at `index` of a section (its own place counted as it was). */
export function moveField(form: Form, key: string, sectionId: string, index: number): Form {
  const from = placeOf(form, key);
  if (!from) return form;
  const at = from.section.id === sectionId && from.index < index ? index - 1 : index;
  if (from.section.id === sectionId && from.index === at) return form;
  return mapSections(form, (s) => {
    const without = s.fields.includes(key) ? s.fields.filter((k) => k !== key) : s.fields;
    if (s.id !== sectionId) return without === s.fields ? s : { ...s, fields: without };
    return { ...s, fields: [...without.slice(0, at), key, ...without.slice(at)] };
  });
}

/** Moves a field one place up or down, into the next section at an end. */
export function nudgeField(form: Form, key: string, by: -1 | 1): Form {
  const at = placeOf(form, key);
  if (!at) return form;
  const sections = form.pages.flatMap((p) => p.sections);
  const number = sections.findIndex((s) => s.id === at.section.id);
  const target = at.index + by;
  if (target >= 0 && target < at.section.fields.length) return moveField(form, key, at.section.id, by < 0 ? target : target + 1);
  const other = sections[number + by];
  return other ? moveField(form, key, other.id, by < 0 ? other.fields.length : 0) : form;
}

/** Adds a section after another (at the end when null). Gives the form and the new section's id. */
export function addSection(form: Form, afterId: string | null, label: string): { form: Form; id: string } {
  const taken = form.pages.flatMap((p) => p.sections.map((s) => s.id));
  const id = keyFromLabel(label || 'section', taken);
  const section: Section = sectionSchema.parse({ id, label, fields: [] });
  const pages = form.pages.map((p, i) => {
    const at = p.sections.findIndex((s) => s.id === afterId);
    if (at >= 0) return { ...p, sections: [...p.sections.slice(0, at + 1), section, ...p.sections.slice(at + 1)] };
    return afterId === null && i === form.pages.length - 1 ? { ...p, sections: [...p.sections, section] } : p;
  });
  return { form: { ...form, pages }, id };
}

export const changeSection = (form: Form, id: string, change: Partial<Omit<Section, 'id' | 'fields'>>): Form =>
  mapSections(form, (s) => (s.id === id ? { ...s, ...change } : s));

/** Adds a page behind another, with an empty section. Gives the form and the new page's id. */
export function addPage(form: Form, afterId: string, label: string): { form: Form; id: string } {
  const id = keyFromLabel(label || 'page', [...form.pages.map((p) => p.id), ...form.pages.flatMap((p) => p.sections.map((s) => s.id))]);
  const at = form.pages.findIndex((p) => p.id === afterId);
  const page = pageSchema.parse({ id, label, sections: [] });
  const pages = [...form.pages.slice(0, at + 1), page, ...form.pages.slice(at + 1)];
  const taken = pages.flatMap((p) => [p.id, ...p.sections.map((s) => s.id)]);
  const section = sectionSchema.parse({ id: keyFromLabel('section', taken), label: '', fields: [] });
  return { form: { ...form, pages: pages.map((p) => (p.id === id ? { ...p, sections: [section] } : p)) }, id };
}

export const changePage = (form: Form, id: string, change: Partial<Omit<Page, 'id' | 'sections'>>): Form => ({
  ...form,
  pages: form.pages.map((p) => (p.id === id ? { ...p, ...change } : p)),
});

/** Moves a page one place up or down. */
export function nudgePage(form: Form, id: string, by: -1 | 1): Form {
  const at = form.pages.findIndex((p) => p.id === id);
  const page = form.pages[at];
  const to = at + by;
  if (!page || to < 0 || to >= form.pages.length) return form;
  const others = form.pages.filter((p) => p !== page);
  return { ...form, pages: [...others.slice(0, to), page, ...others.slice(to)] };
}

/** Removes a page; its sections go to the end of the one before (or to the beginning of the one after). The last page stays. */
export function removePage(form: Form, id: string): Form {
  const at = form.pages.findIndex((p) => p.id === id);
  const gone = form.pages[at];
  const heir = form.pages[at - 1] ?? form.pages[at + 1];
  if (!gone || !heir) return form;
  const sections = at > 0 ? [...heir.sections, ...gone.sections] : [...gone.sections, ...heir.sections];
  return { ...form, pages: form.pages.filter((p) => p !== gone).map((p) => (p === heir ? { ...p, sections } : p)) };
}

/** Puts a section at the end of another page. A page whose last section it was keeps an empty one. */
export function moveToPage(form: Form, sectionId: string, pageId: string): Form {
  const from = form.pages.find((p) => p.sections.some((s) => s.id === sectionId));
  const section = from?.sections.find((s) => s.id === sectionId);
  if (!from || !section || from.id === pageId || !form.pages.some((p) => p.id === pageId)) return form;
  const taken = form.pages.flatMap((p) => [p.id, ...p.sections.map((s) => s.id)]);
  const blank = (): Section => sectionSchema.parse({ id: keyFromLabel('section', taken), label: '', fields: [] });
  const pages = form.pages.map((p) => {
    if (p.id === pageId) return { ...p, sections: [...p.sections, section] };
    if (p !== from) return p;
    const left = p.sections.filter((s) => s !== section);
    return { ...p, sections: left.length ? left : [blank()] };
  });
  return { ...form, pages };
}

/** Moves a whole section one place up or down inside its page. */
export function nudgeSection(form: Form, id: string, by: -1 | 1): Form {
  const pages = form.pages.map((p) => {
    const at = p.sections.findIndex((s) => s.id === id);
    const to = at + by;
    const moved = p.sections[at];
    if (!moved || to < 0 || to >= p.sections.length) return p;
    const sections = p.sections.filter((s) => s.id !== id);
    return { ...p, sections: [...sections.slice(0, to), moved, ...sections.slice(to)] };
  });
  return { ...form, pages };
}

/** Removes a section; its fields go to the end of the one before (or after). The last section stays. */
export function removeSection(form: Form, id: string): Form {
  const sections = form.pages.flatMap((p) => p.sections);
  const at = sections.findIndex((s) => s.id === id);
  const heir = sections[at - 1] ?? sections[at + 1];
  const gone = sections[at];
  if (!gone || !heir) return form;
  const fields = at > 0 ? [...heir.fields, ...gone.fields] : [...gone.fields, ...heir.fields];
  const pages = form.pages.map((p) => ({
    ...p,
    sections: p.sections.filter((s) => s.id !== id).map((s) => (s.id === heir.id ? { ...s, fields } : s)),
  }));
  // a page without sections is none
  return { ...form, pages: pages.filter((p) => p.sections.length > 0) };
}
