import { beforeAll, describe, expect, test } from 'vitest';
import { type Form } from '../../core/form/definition.ts';
import { parseForm } from '../../core/form/schemas.ts';
import { compileForm } from '../../core/engine/compile.ts';
import type { Want } from '../../core/engine/wants.ts';
import { rightsSchema } from '../../core/form/peopleSchemas.ts';
import { columnSchema } from '../../core/model/schemas.ts';
import { type Account, accountByEmail, addAccount } from '../database/accounts';
import { createTable } from '../database/model';
import { historyOf } from '../database/history';
import { allRows, insertRow } from '../database/rows';
import { NOW, type TestWorkspace, bareWorkspace, refusal } from '../testing/workspace';
import { answersFor, maySeeFile } from './access';
import { recordHistory, saveEntry } from './entries';
import { openForEntry } from './opening';
import { PLAIN_VIEW } from '../../core/choices/views.ts';
import { listRecords } from './views';
import { exportCsv } from './exports';
import { storeFile } from './files';
import { addForm, publishedForm } from './forms';
import { publish } from './publishing';
import { lookAt } from './look';
import { ownedTables } from './owners';
import { deleteRecord, recordsToExport } from './records';
import { relatedTo } from './related';
import { changeRights, requireRight } from './rights';

/*
 * Records that belong to people or teams. Two forms: jobs, with lines, which belong to a person and a team; and visits, which choose a job
 * and read it. What others are told is looked through for words that stand in the secret job alone.
 */
let t: TestWorkspace;
let ann: Account; // Lab
let ben: Account; // Lab
let cas: Account; // Field
let rex: Account; // reviewer, Field
let secret = 0;
let open = 0;
let visit = 0;
let file = 0;
let paper = 0;
const SECRET = /hidden-?word/i;
const field = (label: string, type: string, more: object = {}) => ({
  label,
  type,
  column: label.toLowerCase().replaceAll(' ', '_'),
  ...more,
});
const people = { source: { kind: 'rows', table: 'people', show: 'name' } };

beforeAll(async () => {
  t = await bareWorkspace();
  const person = async (name: string, team: string, role: 'clerk' | 'reviewer'): Promise<Account> => {
    const email = `${name}@marrowfen.example`;
    const id = await insertRow(
      t.ws.db,
      await t.ws.modelTable('people'),
      { name, email, team },
      { at: NOW, account: null, form: null, formVersion: null },
    );
    await addAccount(t.ws.db, { email, passwordHash: 'x', roles: [role], person: id, demo: false });
    return (await accountByEmail(t.ws.db, email)) as Account;
  };
  [ann, ben, cas, rex] = [
    await person('ann', 'Lab', 'clerk'),
    await person('ben', 'lab', 'clerk'),
    await person('cas', 'Field', 'clerk'),
    await person('rex', 'Field', 'reviewer'),
  ];
  for (const key of ['jobs', 'visits']) await createTable(t.ws.db, { key, label: key, shown: null, columns: [] });
  const link = columnSchema.parse({ key: 'job', label: 'Job', type: 'link', target: 'jobs' });
  await createTable(t.ws.db, { key: 'job_parts', label: 'Parts', shown: null, columns: [link] });
  t.ws.modelChanged();
  const jobs = parseForm({
    key: 'job', label: 'Job', table: 'jobs', known: 'name',
    pages: [{ id: 'p', label: '', sections: [{ id: 's', label: '', fields: ['name', 'keeper', 'crew', 'helpers', 'paper', 'papers', 'parts'] }] }],
    fields: {
      name: field('Name', 'text'), keeper: field('Keeper', 'person', people), crew: field('Crew', 'text'),
      helpers: field('Helpers', 'links', people), paper: field('Paper', 'file'), papers: field('Papers', 'files'),
    },
    lines: { parts: { label: 'Parts', table: 'job_parts', link: 'job', start: 0, columns: ['what'], fields: { what: field('What', 'text') } } },
    owners: { fields: ['keeper', 'crew', 'helpers'], creator: false, also: { roles: ['reviewer'] } },
  }); // prettier-ignore
  const visits = parseForm({
    key: 'visit', label: 'Visit', table: 'visits', parent: 'jobs', known: 'note',
    pages: [{ id: 'p', label: '', sections: [{ id: 's', label: '', fields: ['note', 'job', 'part', 'copied', 'first', 'all'] }] }],
    fields: {
      note: field('Note', 'text'),
      job: field('Job', 'link', { source: { kind: 'rows', table: 'jobs', show: 'name', search: ['name'] } }),
      part: field('Part', 'choice', { column: null, source: { kind: 'distinct', table: 'job_parts', values: 'what' } }),
      copied: field('Copied', 'text', { value: { kind: 'prefill', formula: 'job.name' } }),
      first: field('First', 'text', { column: null, value: { kind: 'calculation', formula: 'PICK(jobs, ISBLANK(choice.name) = FALSE, choice.name).name' } }),
      all: field('All', 'text', { column: null, value: { kind: 'calculation', formula: 'TEXTJOIN(", ", TRUE, GATHER(jobs, TRUE).name)' } }),
    },
  }); // prettier-ignore
  for (const form of [jobs, visits]) {
    await addForm(t.ws, t.maud, form);
    await publish(t.ws, t.maud, form.key, null).catch((e: { details?: unknown }) => {
      throw new Error(JSON.stringify(e.details));
    });
  }
  file = Number((await storeFile(t.ws, t.maud, 'hiddenword.txt', Buffer.from('hidden-word'))).id);
  paper = Number((await storeFile(t.ws, t.maud, 'hiddenword2.txt', Buffer.from('hidden-word too'))).id);
  let n = 0;
  const save = async (by: Account, form: string, values: Record<string, string | number | null>, more: object[] = []): Promise<number> => {
    const edits = [...Object.entries(values).map(([f, value]) => ({ kind: 'set' as const, field: f, value })), ...more] as never[];
    return (await saveEntry(t.ws, by, form, null, { version: 1, edits, revision: null, request: `owners ${++n}` })).id;
  };
  secret = await save(t.maud, 'job', { name: 'Aaa hiddenword', crew: 'LAB', paper: file }, [
    { kind: 'set', field: 'papers', value: [paper] },
    { kind: 'addLine', field: 'parts', line: -1 },
    { kind: 'set', field: 'parts.what', line: -1, value: 'hiddenword part' },
  ]);
  open = await save(t.maud, 'job', { name: 'Zzz for all' });
  visit = await save(ann, 'visit', { note: 'seen', job: secret });
});

describe('whom a record belongs to', () => {
  const sees = async (who: Account): Promise<number[]> =>
    (await listRecords(t.ws, who, 'job', { search: '', sort: null, descending: false, offset: 0, limit: 50 })).rows.map((r) => r.row.id);
  test('its team sees it whatever the case, those named beside, those who build; others see what is nobody’s', async () => {
    expect(await sees(ann)).toEqual([secret, open]);
    expect(await sees(ben)).toEqual([secret, open]);
    expect(await sees(rex)).toEqual([secret, open]);
    expect(await sees(t.maud)).toEqual([secret, open]);
    expect(await sees(cas)).toEqual([open]);
    expect(await ownedTables(t.ws)).toEqual(new Set(['jobs', 'job_parts']));
  });
  test('a person in it, alone or among several, sees it; whoever entered it does where the form says so', async () => {
    const save = async (by: Account, values: Record<string, unknown>, request: string): Promise<number> =>
      (
        await saveEntry(t.ws, by, 'job', null, {
          version: 1,
          edits: Object.entries(values).map(([f, value]) => ({ kind: 'set', field: f, value })) as never[],
          revision: null,
          request,
        })
      ).id;
    const kept = await save(cas, { name: 'Kept', keeper: ben.person }, 'owners kept');
    const helped = await save(ann, { name: 'Helped', keeper: ann.person, helpers: [cas.person] }, 'owners helped');
    expect(await sees(cas)).toEqual([open, helped]);
    expect(await sees(ben)).toEqual([secret, open, kept]);
    expect(await refusal(openForEntry(t.ws, cas, 'job', kept))).toMatchObject({ status: 404 });
  });
});

describe('others are told nothing of it', () => {
  test('not in the record, its history, what is related, a look at the row, a save, or its neighbours', async () => {
    expect(await refusal(openForEntry(t.ws, cas, 'job', secret))).toMatchObject({ status: 404 });
    expect(await refusal(recordHistory(t.ws, cas, 'job', secret))).toMatchObject({ status: 404 });
    expect(await refusal(lookAt(t.ws, cas, 'jobs', secret))).toMatchObject({ status: 404 });
    expect(await refusal(relatedTo(t.ws, cas, 'job', secret))).toMatchObject({ status: 404 });
    expect(
      await refusal(saveEntry(t.ws, cas, 'job', secret, { version: 1, edits: [], revision: 1, request: 'owners forged' })),
    ).toMatchObject({ status: 404 });
    expect(await refusal(openForEntry(t.ws, cas, 'visit', null, { parent: secret, url: {} }))).toMatchObject({ status: 404 });
    expect((await relatedTo(t.ws, cas, 'job', open)).before).toBeNull();
    expect((await relatedTo(t.ws, ann, 'job', open)).before).toBe(secret);
  });
  test('not through another form: its list, its search, its formulas, a link that is there, the texts of links, its lines', async () => {
    const list = await listRecords(t.ws, cas, 'visit', { search: '', sort: null, descending: false, offset: 0, limit: 50 });
    expect(JSON.stringify(list.linked)).not.toMatch(SECRET);
    const opened = await openForEntry(t.ws, cas, 'visit', null);
    expect(JSON.stringify(opened)).not.toMatch(SECRET);
    const { plan } = await publishedForm(t.ws, 'visit');
    const wants: Want[] = [
      { kind: 'table', table: 'jobs' },
      { kind: 'table', table: 'job_parts' },
      { kind: 'row', table: 'jobs', id: secret },
      { kind: 'row', table: '_files', id: file },
      ...['job', 'part'].flatMap((f): Want[] => [
        { kind: 'page', field: f, params: [], open: [], search: 'hidden', offset: 0, limit: 10 },
        { kind: 'page', field: f, params: [], open: [], search: '', offset: 0, limit: 10 },
      ]),
      { kind: 'picked', pick: 0, params: [] },
      { kind: 'picked', pick: 1, params: [] },
    ];
    expect(JSON.stringify(await answersFor(t.ws, plan, cas, wants))).not.toMatch(SECRET);
    expect(JSON.stringify(await answersFor(t.ws, plan, ann, wants))).toMatch(SECRET);
    const [offered] = await answersFor(t.ws, plan, cas, [{ kind: 'offered', field: 'job', params: [], open: [], value: secret }]);
    expect(offered?.answer).toMatchObject({ offered: false });
    const forged = {
      version: 1,
      edits: [{ kind: 'set' as const, field: 'job', value: secret }],
      revision: null,
      request: 'owners visit forged',
    };
    expect(await refusal(saveEntry(t.ws, cas, 'visit', null, forged))).toMatchObject({ status: 422 });
  });
  test('a record of another form that links to it opens without what it says', async () => {
    const opened = await openForEntry(t.ws, cas, 'visit', visit);
    const told = JSON.stringify(opened.answered);
    expect(told).not.toMatch(SECRET);
    // what was copied from it when it was entered stands in the visit itself
    expect(opened.record?.values.copied).toBe('Aaa hiddenword');
  });
  test('nor a file that it alone holds', async () => {
    for (const held of [file, paper]) {
      expect(await maySeeFile(t.ws, ann, held), `file ${held}`).toBe(true);
      expect(await maySeeFile(t.ws, cas, held), `file ${held}`).toBe(false);
    }
  });
  test('counting what links to a row counts what is seen', async () => {
    const children = async (who: Account): Promise<number> =>
      (await lookAt(t.ws, who, 'people', ben.person).catch(() => null))?.children.find((c) => c.table === 'jobs')?.count ?? 0;
    expect([await children(ben), await children(cas)]).toEqual([1, 0]);
  });
});

test('what cannot say whose a record is, is a problem', async () => {
  const { form } = await publishedForm(t.ws, 'job');
  const problems = async (fields: string[], change: (f: Form) => Form = (f) => f): Promise<string[]> =>
    compileForm(change({ ...form, owners: { fields, creator: true, also: { roles: [], teams: [] } } }), await t.ws.tables()).problems.filter((p) => p.steps).map((p) => p.message); // prettier-ignore
  expect(await problems(['keeper'])).toEqual([]);
  expect((await problems(['gone']))[0]).toContain('no such field');
  expect((await problems(['paper']))[0]).toContain('must hold people');
  expect(
    (await problems(['keeper'], (f) => ({ ...f, fields: { ...f.fields, keeper: { ...f.fields.keeper!, column: null } } })))[0],
  ).toContain('not saved');
});

describe('deleting and exporting', () => {
  const csv = async (who: Account, form: string): Promise<string> => {
    const pieces: string[] = [];
    for await (const piece of exportCsv(t.ws, await recordsToExport(t.ws, who, form, PLAIN_VIEW, ''))) pieces.push(piece);
    return pieces.join('');
  };
  test('a file holds the records and columns that one may read, under the fields’ labels', async () => {
    const told = await csv(ann, 'job');
    expect(told.split('\n')[0]).toBe('Name,Keeper,Crew,Helpers,Paper,Papers');
    expect(told).toMatch(SECRET);
    expect(await csv(cas, 'job')).toContain('Zzz for all');
    expect(await csv(cas, 'job')).not.toMatch(SECRET);
    // a link to what one may not see says nothing of it; what was copied when it was entered stands in the visit itself
    expect(await csv(cas, 'visit')).toBe('Note,Job,Copied\nseen,,Aaa hiddenword\n');
    expect(await csv(ann, 'visit')).toContain('seen,Aaa hiddenword,');
  });
  test('who may is said per form, and holds at once; who builds may', async () => {
    const may = (who: Account, right: 'delete' | 'export') => requireRight(t.ws, who, 'job', [right]).then(() => true, () => false); // prettier-ignore
    expect([await may(ann, 'delete'), await may(ann, 'export'), await may(t.maud, 'delete')]).toEqual([false, false, true]);
    const lab = { roles: [], teams: ['Lab'] };
    await changeRights(t.ws, 'job', rightsSchema.parse({ delete: lab }));
    expect([await may(ann, 'delete'), await may(cas, 'delete'), await may(ann, 'export')]).toEqual([true, false, false]);
  });
  test('others’ records are not there; what is linked to, or was saved meanwhile, stays; lines go along, the history stays', async () => {
    const rows = async (key: string): Promise<number[]> => (await allRows(t.ws.db, await t.ws.modelTable(key))).map((r) => r.id);
    const revision = (await openForEntry(t.ws, ann, 'job', secret)).record?.revision ?? 0;
    expect(await refusal(deleteRecord(t.ws, cas, 'job', secret, revision))).toMatchObject({ status: 404 });
    const linked = await refusal(deleteRecord(t.ws, ann, 'job', secret, revision));
    expect(linked).toMatchObject({ status: 409, code: 'inUse', details: { links: [{ label: 'visits', rows: [{ id: visit }] }] } });
    for (const id of await rows('visits')) {
      const { record } = await openForEntry(t.ws, t.maud, 'visit', id);
      await deleteRecord(t.ws, t.maud, 'visit', id, record?.revision ?? 0);
    }
    expect(await refusal(deleteRecord(t.ws, ann, 'job', secret, revision + 1))).toMatchObject({ status: 409, code: 'changedMeanwhile' });
    expect(await rows('jobs')).toContain(secret);
    const before = await rows('job_parts');
    await deleteRecord(t.ws, ann, 'job', secret, revision);
    expect(await rows('jobs')).not.toContain(secret);
    expect((await rows('job_parts')).length).toBe(before.length - 1);
    expect((await historyOf(t.ws.db, 'jobs', secret))[0]).toMatchObject({ kind: 'deleted', changes: { name: ['Aaa hiddenword', null] } });
    expect(await refusal(deleteRecord(t.ws, ann, 'job', secret, revision))).toMatchObject({ status: 404 });
  });
});
