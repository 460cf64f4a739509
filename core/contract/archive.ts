import { z } from 'zod';
import { viewSchema } from '../choices/viewSchemas.ts';
import { columnSchema, keySchema } from '../model/schemas.ts';
import { define } from './define.ts';
import { workspaceSchema } from './people.ts';
import { begun } from './values.ts';

/*
 * A whole workspace as one archive of open files: a tabular data package (datapackage.json and a CSV for each table) with, beside it,
 * `workspace.json`, `lists/KEY.json`, `feeds/KEY.json` (without secrets), `forms/KEY.json` (as published, with its rehearsals) and
 * `drafts/KEY.json` where a draft is ahead. This is what `workspace.json` says.
 */
export const archiveSchema = z.object({
  /** what the file is, and by which rules it was written */
  brisk: z.literal('workspace'),
  format: z.literal(1),
  settings: workspaceSchema,
  /** tables as they are here, which a data package tells in part */
  tables: z
    .array(
      z.object({
        key: keySchema,
        label: z.string().min(1).max(120),
        shown: z.string().max(60).nullable(),
        columns: z.array(columnSchema).max(500),
        subsets: z.array(z.object({ key: z.string().max(60), label: z.string().max(120), condition: z.string().max(10_000) })).max(200),
      }),
    )
    .max(500),
  lists: z.array(keySchema).max(500),
  feeds: z.array(keySchema).max(200),
  forms: z.array(z.object({ key: keySchema, published: z.boolean(), draft: z.boolean() })).max(500),
  /** the views of records that are shared; what somebody keeps for themselves stays theirs */
  views: z
    .array(z.object({ form: keySchema, label: z.string().min(1).max(120), usual: z.boolean(), view: viewSchema }))
    .max(5000)
    .default([]),
});
export type Archive = z.infer<typeof archiveSchema>;

/** What was brought in. */
export const broughtIn = z.object({
  tables: z.number(),
  rows: z.number(),
  lists: z.number(),
  feeds: z.number(),
  forms: z.number(),
  /** what is to be seen to, a sentence each */
  notes: z.array(z.string()),
});

const ADMIN = ['administrator'] as const;
export const archives = {
  out: define({ method: 'GET', path: 'workspace/archive', may: ADMIN, about: 'The whole workspace as one archive of open files.' }),
  in: define({
    method: 'POST', path: 'workspace/archive', may: ADMIN, about: 'Begins to bring in an archive that was sent: all of it or nothing, beside what is here. Refused where something here is called as something in it.',
    body: z.object({ upload: z.string().max(100) }), answer: begun, result: broughtIn,
  }),
}; // prettier-ignore
