import { z } from 'zod';
import { reachOf } from '../engine/reach.ts';
import type { Plan } from '../engine/plan.ts';
import { formSchema } from '../form/schemas.ts';
import { MOST_REHEARSALS } from '../form/rehearsal.ts';
import { rehearsalSchema } from '../form/rehearsalSchemas.ts';
import type { Feed } from '../model/feeds.ts';
import type { OptionList } from '../model/lists.ts';
import { COLUMN_TYPES, type Table, targetOf } from '../model/tables.ts';

/*
 * A form as a file to keep, to send and to bring in elsewhere: its definition, as the published schema describes it, and what it needs of
 * a workspace, so that what is missing can be said before anything is made. The data itself travels as a data package.
 */

export const formFileSchema = z.object({
  /** what the file is, and by which rules it was written */
  brisk: z.literal('form'),
  format: z.literal(1),
  form: formSchema,
  needs: z
    .object({
      tables: z.array(z.object({ key: z.string().max(60), label: z.string().max(120), columns: z.array(z.object({ key: z.string().max(60), label: z.string().max(120), type: z.enum(COLUMN_TYPES), target: z.string().max(60).nullable().default(null) })).max(500).default([]) })).max(500).default([]),
      lists: z.array(z.object({ key: z.string().max(60), label: z.string().max(120) })).max(500).default([]),
      feeds: z.array(z.object({ key: z.string().max(60), label: z.string().max(120), params: z.array(z.string().max(60)).max(50).default([]), attributes: z.array(z.string().max(60)).max(100).default([]) })).max(100).default([]),
    })
    .default({ tables: [], lists: [], feeds: [] }),
  rehearsals: z.array(rehearsalSchema).max(MOST_REHEARSALS).default([]),
}); // prettier-ignore
export type FormFile = z.infer<typeof formFileSchema>;
export type FormNeeds = FormFile['needs'];

/** What a workspace has that forms rest on. */
export interface WorkspaceHas {
  readonly tables: readonly Table[];
  readonly lists: readonly OptionList[];
  readonly feeds: readonly Feed[];
}

/** What a compiled form needs of a workspace: tables with the columns it reads, option lists, feeds. Columns that publishing makes are none of it. */
export function needsOf(plan: Plan, has: WorkspaceHas): FormNeeds {
  const reach = reachOf(plan);
  const tables = has.tables.filter((t) => reach.columns.has(t.key) || t.key === plan.form.table);
  const lists = has.lists.filter((l) => reach.lists.has(l.key));
  const feeds = has.feeds.filter((f) => reach.feeds.has(f.key));
  return {
    tables: tables.map((t) => ({
      key: t.key,
      label: t.label,
      columns: t.columns
        .filter((c) => reach.columns.get(t.key)?.has(c.key))
        .map((c) => ({ key: c.key, label: c.label, type: c.type, target: targetOf(c) })),
    })),
    lists: lists.map(({ key, label }) => ({ key, label })),
    feeds: feeds.map((f) => ({
      key: f.key,
      label: f.label,
      params: f.params.map((p) => p.key),
      attributes: f.attributes.map((a) => a.key),
    })),
  };
}

/** What a workspace lacks of what a form needs, a sentence each; empty when it has all. */
export function lacking(needs: FormNeeds, has: WorkspaceHas): string[] {
  const found: string[] = [];
  for (const need of needs.tables) {
    const table = has.tables.find((t) => t.key === need.key);
    if (!table) {
      const columns = need.columns.map((c) => c.key).join(', ');
      found.push(`There is no table “${need.key}” (${need.label})${columns ? `; it needs the columns ${columns}` : ''}.`);
      continue;
    }
    for (const column of need.columns) {
      const own = table.columns.find((c) => c.key === column.key);
      if (!own) found.push(`The table “${need.key}” has no column “${column.key}” (${column.label}).`);
      else if (own.type !== column.type) found.push(`The column “${need.key}.${column.key}” is of type ${own.type} here, and the form takes it as ${column.type}.`);
      else if (targetOf(own) !== column.target) found.push(`The column “${need.key}.${column.key}” leads to ${targetOf(own) ?? 'no table'} here, not to ${column.target ?? 'none'}.`);
    }
  } // prettier-ignore
  for (const need of needs.lists)
    if (!has.lists.some((l) => l.key === need.key)) found.push(`There is no option list “${need.key}” (${need.label}).`);
  for (const need of needs.feeds) {
    const feed = has.feeds.find((f) => f.key === need.key);
    if (!feed) found.push(`There is no feed “${need.key}” (${need.label}).`);
    for (const name of feed ? need.params.filter((p) => !feed.params.some((own) => own.key === p)) : [])
      found.push(`The feed “${need.key}” takes no “${name}” here.`);
    for (const name of feed ? need.attributes.filter((a) => !feed.attributes.some((own) => own.key === a)) : [])
      found.push(`The feed “${need.key}” gives no “${name}” here.`);
  }
  return found;
}
