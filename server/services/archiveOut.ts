import type { Archive } from '../../core/contract/archive.ts';
import { formKeys, newestVersion } from '../database/forms';
import { formFile } from './formFiles';
import { type Beside, exportPackage } from './packages';
import { workspaceSettings } from './settings';
import { sharedViews } from './views';
import type { Workspace } from './workspace';

/* A whole workspace out as one archive of open files: see core/contract/archive.ts. */

const json = (value: unknown): string => `${JSON.stringify(value, null, 2)}\n`;

/** The archive, streamed. Accounts, rights, secrets of feeds, files and histories are no part of it. */
export async function* workspaceArchive(ws: Workspace): AsyncGenerator<Uint8Array> {
  const tables = await ws.modelTables();
  const lists = [...(await ws.lists()).values()];
  const feeds = [...(await ws.feeds()).values()];
  const beside: Beside[] = [];
  const forms: Archive['forms'] = [];
  for (const key of await formKeys(ws.db)) {
    const version = (await newestVersion(ws.db, key))?.number ?? null;
    const draft = await formFile(ws, key, null);
    const published = version === null ? null : await formFile(ws, key, version);
    const isAhead = published !== null && JSON.stringify(published.form) !== JSON.stringify(draft.form);
    beside.push({ name: `forms/${key}.json`, text: json(published ?? draft) });
    if (isAhead) beside.push({ name: `drafts/${key}.json`, text: json(draft) });
    forms.push({ key, published: published !== null, draft: isAhead });
  }
  for (const list of lists) beside.push({ name: `lists/${list.key}.json`, text: json(list) });
  for (const feed of feeds) beside.push({ name: `feeds/${feed.key}.json`, text: json(feed) });
  const archive: Archive = {
    brisk: 'workspace',
    format: 1,
    settings: await workspaceSettings(ws),
    tables: tables.map(({ key, label, shown, columns, subsets }) => ({
      key,
      label,
      shown,
      columns: [...columns],
      subsets: [...(subsets ?? [])],
    })),
    lists: lists.map((l) => l.key),
    feeds: feeds.map((f) => f.key),
    forms,
    views: await sharedViews(ws),
  };
  yield* exportPackage(ws, tables.map((t) => t.key), [{ name: 'workspace.json', text: json(archive) }, ...beside]); // prettier-ignore
}
