import { columnSchema } from '../../core/model/schemas.ts';
import { parseForm } from '../../core/form/schemas.ts';
import { analyse, generateRows } from '../database/generate';
import { createTable } from '../database/model';
import { addForm, formSummaries } from '../services/forms';
import { publish } from '../services/publishing';
import type { Workspace } from '../services/workspace';

/*
 * Herbarium sheets under a four-level hierarchy, for showing that size does not matter: cabinets ‹ drawers ‹ folders ‹
 * sheets. Written by one statement a table, so that a million rows take seconds.
 */

const column = (key: string, label: string, type: string, target: string | null = null) => columnSchema.parse({ key, label, type, target });
const rows = (table: string, more: object): object => ({ kind: 'rows', table, show: 'name', sort: ['name'], search: ['name'], ...more });

/** A name with a number of at least so many digits, in SQL. */
const numbered = (name: string, digits: number, number: string): string =>
  `'${name} ' || substr('${'0'.repeat(digits)}', 1, ${digits} - length('' || ${number})) || ${number}`;

/** Adds the four tables with `sheets` rows in the last, and a form over them. What is there already is left; a load cut short is gone on with. */
export async function loadScale(ws: Workspace, sheets: number): Promise<void> {
  if (!(await ws.modelTables()).some((t) => t.key === 'herbarium_sheets')) await loadTables(ws, sheets);
  const known = (await formSummaries(ws)).find((f) => f.key === 'sheet_loan');
  if (!known) await loadForm(ws);
  if (!known?.version) await publish(ws, null, 'sheet_loan', null);
  await analyse(ws.db);
}

async function loadTables(ws: Workspace, sheets: number): Promise<void> {
  const folders = Math.max(2500, Math.round(sheets / 100));
  const drawers = Math.max(40, Math.round(folders / 50));
  const levels = [
    { key: 'cabinets', label: 'Cabinets', above: null, count: 20, name: "'Cabinet ' || substr('ABCDEFGHIJKLMNOPQRST', i, 1)" },
    { key: 'drawers', label: 'Drawers', above: 'cabinet', count: drawers, name: numbered('Drawer', 3, 'i') },
    { key: 'folders', label: 'Folders', above: 'drawer', count: folders, name: numbered('Folder', 5, 'i') },
    {
      key: 'herbarium_sheets',
      label: 'Herbarium sheets',
      above: 'folder',
      count: sheets,
      name: numbered('Sheet', 7, '((i * 7919) % :count + 1)'),
    },
  ] as const;
  await ws.db.transaction(async (db) => {
    let parentCount = 0;
    let parentTable: string | null = null;
    for (const { key, label, above, count, name } of levels) {
      const columns = [column('name', 'Name', 'text')];
      if (above) columns.push(column(above, label, 'link', parentTable));
      if (key === 'herbarium_sheets') columns.push(column('mounted', 'Mounted', 'yesno'), column('year', 'Year', 'number'));
      const linked = above
        ? columns.map((c) => (c.key === above ? { ...c, label: above[0]!.toUpperCase() + above.slice(1) } : c))
        : columns;
      await createTable(db, { key, label, shown: 'name', columns: linked });
      const more: Record<string, string> =
        key === 'herbarium_sheets' ? { mounted: 'CASE WHEN i % 5 > 0 THEN 1 ELSE 0 END', year: '1890 + i % 130' } : {};
      const shown = name.replaceAll(':count', String(count));
      await generateRows(db, key, count, { name: shown, name__fold: `upper(${shown})`, ...(above ? { [above]: `(i - 1) % ${parentCount} + 1` } : {}), ...more }); // prettier-ignore
      parentCount = count;
      parentTable = key;
    }
    await createTable(db, { key: 'sheet_loans', label: 'Sheet loans', shown: null, columns: [] });
  });
  ws.modelChanged();
  for (const { key } of levels) ws.rowsChanged(key);
}

async function loadForm(ws: Workspace): Promise<void> {
  const field = (label: string, table: string, above: string | null, more: object = {}): object => ({
    label,
    type: 'link',
    column: table,
    source: rows(table, { where: above ? `choice.${above} = ${above}${table === 'herbarium_sheets' ? ' AND choice.mounted' : ''}` : null, waiting: table === 'herbarium_sheets' ? 'all' : 'none', ...more }),
  }); // prettier-ignore
  await addForm(
    ws,
    null,
    parseForm({
      key: 'sheet_loan',
      label: 'Sheet loan',
      table: 'sheet_loans',
      pages: [
        { id: 'p1', label: '', sections: [{ id: 's1', label: 'Which sheet', fields: ['cabinet', 'drawer', 'folder', 'sheet', 'year'] }] },
      ],
      fields: {
        cabinet: field('Cabinet', 'cabinets', null),
        drawer: field('Drawer', 'drawers', 'cabinet'),
        folder: field('Folder', 'folders', 'drawer'),
        sheet: field('Sheet', 'herbarium_sheets', 'folder'),
        year: { label: 'Year', type: 'number', column: 'year', decimals: 0, value: { kind: 'prefill', formula: 'sheet.year' } },
      },
    }),
  );
}
