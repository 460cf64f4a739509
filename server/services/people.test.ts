import { beforeAll, describe, expect, test } from 'vitest';
import { rightsSchema } from '../../core/form/peopleSchemas.ts';
import { type Account, accountByEmail, accountById, addAccount, wholeAccount } from '../database/accounts';
import { insertRow } from '../database/rows';
import { openDatabase } from '../database/connection';
import { FIXED, type TestWorkspace, demoWorkspace, emptyDatabase, refusal } from '../testing/workspace';
import { saveEntry } from './entries';
import { openForEntry } from './opening';
import { listRecords } from './views';
import { lookAt } from './look';
import { verifyPassword } from './passwords';
import { accountLines, addPerson, changePerson, firstLink, linkHolder, personLink, removePerson, usePersonLink } from './people';
import { addProgram, programAccount, programLines, removeProgram } from './programs';
import { changeRights, formRights, formsToEnter, requireRight, rightsOf } from './rights';
import { beginSession, sessionAccount } from './sessions';
import { changeSettings, workspaceSettings } from './settings';
import { SystemClock, Workspace } from './workspace';

let t: TestWorkspace;
let peg: Account;
beforeAll(async () => {
  t = await demoWorkspace();
  peg = (await accountByEmail(t.ws.db, 'peg@marrowfen.example')) as Account;
});
const tokenOf = (path: string): string => path.split('/').at(-1) ?? '';
const WYN = { person: null, name: 'Wyn Sallow', email: 'wyn.sallow@marrowfen.example', team: 'Field', roles: ['clerk' as const] };

describe('accounts', () => {
  test('of hundreds of people are told each once, by their names', async () => {
    const { ws, maud } = await demoWorkspace();
    const people = await ws.modelTable('people');
    const stamp = { at: FIXED.now(), account: null, form: null, formVersion: null };
    for (let i = 0; i < 700; i++) {
      const person = await insertRow(ws.db, people, { name: `Person ${(i * 37) % 350}`, email: null, team: null }, stamp);
      await addAccount(ws.db, { email: `p${i}@fen.example`, passwordHash: '', roles: ['clerk'], person, demo: false });
    }
    const lines = await accountLines(ws);
    expect(lines).toHaveLength(705);
    expect(new Set(lines.map((l) => l.id)).size).toBe(705);
    const names = lines.map((l) => l.name);
    expect(names).toEqual([...names].sort());
    // somebody's address is taken, also where the account is out of use; one's own is not
    const sent = { roles: ['clerk' as const], team: null, email: 'p3@fen.example', active: false };
    const [third, fourth] = ['p3', 'p4'].map((n) => lines.find((l) => l.email === `${n}@fen.example`)!.id);
    await changePerson(ws, maud, third!, sent);
    expect((await refusal(changePerson(ws, maud, fourth!, { ...sent, active: true }))).message).toContain(
      'has an account with this e-mail address already',
    );
  });

  test('one is added for a new person, who sets the password by a link that works once', async () => {
    const { account, link } = await addPerson(t.ws, peg, WYN);
    expect(account).toMatchObject({
      name: 'Wyn Sallow',
      team: 'Field',
      roles: ['clerk'],
      active: true,
      hasPassword: false,
      linkUntil: link.until,
    });
    expect(await linkHolder(t.ws, tokenOf(link.path))).toMatchObject({ account: { id: account.id } });
    expect(await usePersonLink(t.ws, tokenOf(link.path), { password: 'reed-and-sedge', first: null })).toBe(account.id);
    expect(await verifyPassword((await wholeAccount(t.ws.db, account.id))?.passwordHash ?? '', 'reed-and-sedge')).toBe(true);
    for (const again of [tokenOf(link.path), 'x'.repeat(32), 'y'.repeat(300)])
      expect(await refusal(usePersonLink(t.ws, again, { password: 'another-one-x', first: null }))).toMatchObject({
        status: 404,
        code: 'noLink',
      });
  });
  test('a new link makes the one before void, and is void itself when it is too old', async () => {
    const { account, link } = await addPerson(t.ws, peg, { ...WYN, name: 'Two', email: 'two@marrowfen.example' });
    const second = await personLink(t.ws, peg, account.id);
    expect(await refusal(linkHolder(t.ws, tokenOf(link.path)))).toMatchObject({ code: 'noLink' });
    await t.ws
      .db('invites')
      .update({ expires: Date.now() - 1 })
      .where({ account_id: account.id });
    expect(await refusal(linkHolder(t.ws, tokenOf(second.path)))).toMatchObject({ code: 'noLink' });
  });
  test('an address that is taken, a person who is not there or has one already, are refused; nothing is kept of it', async () => {
    const people = await t.ws.rowCount('people');
    expect(await refusal(addPerson(t.ws, peg, { ...WYN, email: 'ida@marrowfen.example' }))).toMatchObject({
      status: 409,
      message: expect.stringContaining('Ida Fenn'),
    });
    expect(await refusal(addPerson(t.ws, peg, { ...WYN, email: 'new@marrowfen.example', person: 99_999 }))).toMatchObject({ status: 404 });
    expect(await refusal(addPerson(t.ws, peg, { ...WYN, email: 'new@marrowfen.example', person: t.ida.person }))).toMatchObject({
      status: 409,
    });
    expect(await t.ws.rowCount('people')).toBe(people);
  });
  test('the last administrator stays one, in use and there; with another, one may go', async () => {
    const own = { roles: ['designer' as const], team: 'Office', email: peg.email, active: true };
    expect(await refusal(changePerson(t.ws, peg, peg.id, own))).toMatchObject({ status: 409, code: 'lastAdministrator' });
    expect(await refusal(changePerson(t.ws, peg, peg.id, { ...own, roles: ['administrator'], active: false }))).toMatchObject({
      code: 'lastAdministrator',
    });
    expect(await refusal(removePerson(t.ws, peg.id))).toMatchObject({ code: 'lastAdministrator' });
    await changePerson(t.ws, peg, t.maud.id, { roles: ['designer', 'administrator'], team: 'Office', email: t.maud.email, active: true });
    expect((await changePerson(t.ws, peg, peg.id, own)).roles).toEqual(['designer']);
    await changePerson(t.ws, t.maud, peg.id, { ...own, roles: ['administrator'] });
    await changePerson(t.ws, peg, t.maud.id, { roles: ['designer'], team: 'Office', email: t.maud.email, active: true });
  });
  test('of two administrators who take each other’s role at once, one is refused', async () => {
    const own = (a: Account) => ({ roles: ['designer' as const], team: a.team, email: a.email, active: true });
    await changePerson(t.ws, peg, t.maud.id, { ...own(t.maud), roles: ['designer', 'administrator'] });
    const both = await Promise.allSettled([changePerson(t.ws, t.maud, peg.id, own(peg)), changePerson(t.ws, peg, t.maud.id, own(t.maud))]);
    expect(both.map((b) => b.status).sort()).toEqual(['fulfilled', 'rejected']);
    const left = (await accountLines(t.ws)).filter((a) => a.roles.includes('administrator'));
    expect(left).toHaveLength(1);
    await changePerson(t.ws, peg, peg.id, { ...own(peg), roles: ['administrator'] });
    await changePerson(t.ws, peg, t.maud.id, own(t.maud));
  });
  test('out of use, it signs in no more, its sessions end and its links are void; its team is that of its person', async () => {
    const { account, link } = await addPerson(t.ws, peg, { ...WYN, name: 'Three', email: 'three@marrowfen.example' });
    const session = await beginSession(t.ws, account.id);
    expect(await sessionAccount(t.ws, session)).toMatchObject({ id: account.id });
    const changed = await changePerson(t.ws, peg, account.id, {
      roles: ['clerk', 'reviewer'],
      team: 'Lab',
      email: account.email,
      active: false,
    });
    expect(changed).toMatchObject({ team: 'Lab', roles: ['clerk', 'reviewer'], active: false, linkUntil: null });
    expect(await sessionAccount(t.ws, session)).toBeNull();
    expect(await accountByEmail(t.ws.db, account.email)).toBeNull();
    expect(await refusal(linkHolder(t.ws, tokenOf(link.path)))).toMatchObject({ code: 'noLink' });
    expect(await refusal(personLink(t.ws, peg, account.id))).toMatchObject({ code: 'outOfUse' });
    await removePerson(t.ws, account.id);
    expect((await accountLines(t.ws)).some((a) => a.id === account.id)).toBe(false);
  });
  test('one that has entered something stays for the history', async () => {
    expect(await refusal(removePerson(t.ws, t.ida.id))).toMatchObject({ status: 409, code: 'inUse' });
  });
  test('a role more is seen by the form: me.roles', async () => {
    const { account } = await addPerson(t.ws, peg, { ...WYN, name: 'Four', email: 'four@marrowfen.example', roles: ['clerk', 'reviewer'] });
    const four = (await accountById(t.ws.db, account.id)) as Account;
    expect((await openForEntry(t.ws, four, 'seed_request', null)).context.roles).toEqual(['clerk', 'reviewer']);
  });
});

describe('an empty workspace', () => {
  test('has a link for its first administrator, who names it; it works once and only while nobody has an account', async () => {
    const ws = new Workspace(await openDatabase(await emptyDatabase()), FIXED);
    const old = (await firstLink(ws))!;
    const link = (await firstLink(ws))!;
    expect(await refusal(linkHolder(ws, tokenOf(old.path)))).toMatchObject({ code: 'noLink' });
    expect(await linkHolder(ws, tokenOf(link.path))).toEqual({ account: null });
    expect(await refusal(usePersonLink(ws, tokenOf(link.path), { password: 'reed-and-sedge', first: null }))).toMatchObject({
      status: 422,
    });
    const first = { name: 'Maud Alder', email: 'maud@marrowfen.example', workspace: 'Marrow Fen' };
    const id = await usePersonLink(ws, tokenOf(link.path), { password: 'reed-and-sedge', first });
    expect(await accountById(ws.db, id)).toMatchObject({ name: 'Maud Alder', roles: ['administrator', 'designer'] });
    expect((await workspaceSettings(ws)).name).toBe('Marrow Fen');
    expect(await firstLink(ws)).toBeNull();
    expect(await refusal(usePersonLink(ws, tokenOf(link.path), { password: 'reed-and-sedge', first }))).toMatchObject({ code: 'noLink' });
  });
});

describe('settings', () => {
  test('a zone decides which day it is; what is not there is refused', async () => {
    const ws = new Workspace(await openDatabase(await emptyDatabase()), new SystemClock());
    const settings = await workspaceSettings(ws);
    expect(await refusal(changeSettings(ws, { ...settings, zone: 'Fen/Marrow' }))).toMatchObject({ status: 422 });
    expect(await refusal(changeSettings(ws, { ...settings, holidays: { table: 'people', column: 'name' } }))).toMatchObject({
      status: 422,
    });
    await changeSettings(ws, { ...settings, zone: 'Pacific/Kiritimati' });
    const ahead = ws.clock.now();
    await changeSettings(ws, { ...settings, zone: 'Pacific/Pago_Pago' });
    const hours = (Date.parse(`${ahead}Z`) - Date.parse(`${ws.clock.now()}Z`)) / 3_600_000;
    expect(Math.round(hours)).toBe(25);
    expect(ahead).toMatch(/^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d$/);
  });
});

describe('rights with a form', () => {
  const only = (roles: ('clerk' | 'reviewer')[], teams: string[] = []) => ({ roles, teams });
  test('say who may; whoever may not is refused, sees no form, no table, no row of it', async () => {
    const before = await formRights(t.ws, 'lot_intake');
    expect(await rightsOf(t.ws, t.ida, 'lot_intake')).toEqual(['enter', 'see', 'edit']);
    await changeRights(t.ws, 'lot_intake', { ...before, enter: only([], ['Field']), see: only(['reviewer']), edit: only([]) });
    // who may not see may not change either
    expect(await rightsOf(t.ws, t.ida, 'lot_intake')).toEqual(['enter']);
    expect(await refusal(requireRight(t.ws, t.ida, 'lot_intake', ['see']))).toMatchObject({ status: 403 });
    await requireRight(t.ws, t.ida, 'lot_intake', ['enter']);
    await changeRights(t.ws, 'lot_intake', { ...before, enter: only(['reviewer']), see: only(['reviewer']) });
    expect((await formsToEnter(t.ws, t.ida)).map((f) => f.key)).not.toContain('lot_intake');
    expect(await rightsOf(t.ws, t.maud, 'lot_intake'), 'those who build see all').toContain('export');
    const nell = (await accountByEmail(t.ws.db, 'nell@marrowfen.example')) as Account;
    const { rows } = await listRecords(t.ws, nell, 'lot_intake', { search: '', sort: null, descending: false, offset: 0, limit: 1 });
    const lot = rows[0]?.row.id ?? 0;
    // another form that she may use offers lots: of these she is told what it reads, and not what the first hides from her
    const seen = await lookAt(t.ws, t.ida, 'lots', lot);
    expect(seen.table.columns.map((c) => c.key)).not.toContain('remark');
    for (const key of ['germination_test', 'seed_request'])
      await changeRights(t.ws, key, { ...before, enter: only(['reviewer']), see: only(['reviewer']) });
    expect(await refusal(lookAt(t.ws, t.ida, 'lots', lot))).toMatchObject({ status: 403 });
    for (const key of ['lot_intake', 'germination_test', 'seed_request']) await changeRights(t.ws, key, before);
  });
  test('are those of everybody where nothing was said, but for deleting and exporting', () => {
    expect(rightsSchema.parse({})).toEqual({
      enter: only([]),
      see: only([]),
      edit: only([]),
      delete: { roles: ['designer', 'administrator'], teams: [] },
      export: { roles: ['designer', 'administrator'], teams: [] },
    });
  });
});

describe('programs', () => {
  test('ask with a token that is told once, with its rights and no others; their records are theirs; ended, it is nobody', async () => {
    const { program, token } = await addProgram(t.ws, peg, {
      name: 'Bench scale',
      roles: ['clerk'],
      rights: [{ form: 'bench_task', rights: ['enter'] }],
    });
    const scale = (await programAccount(t.ws, token)) as Account;
    expect(await rightsOf(t.ws, scale, 'bench_task')).toEqual(['enter']);
    expect(await rightsOf(t.ws, scale, 'lot_intake')).toEqual([]);
    expect((await formsToEnter(t.ws, scale)).map((f) => f.key)).toEqual(['bench_task']);
    const { version } = await openForEntry(t.ws, scale, 'bench_task', null);
    const saved = await saveEntry(t.ws, scale, 'bench_task', null, {
      version,
      edits: [{ kind: 'set', field: 'task', value: 'Weigh the trays' }],
      revision: null,
      request: 'a program 1',
    });
    expect(saved.id).toBeGreaterThan(0);
    expect(JSON.stringify(await programLines(t.ws))).not.toContain(token);
    expect(await accountByEmail(t.ws.db, scale.email)).toBeNull();
    for (const bad of ['', 'ba_', `${token}x`, 'ba_'.padEnd(200, 'x')]) expect(await programAccount(t.ws, bad)).toBeNull();
    await removeProgram(t.ws, program.id);
    expect(await programAccount(t.ws, token)).toBeNull();
    expect(await refusal(removeProgram(t.ws, program.id))).toMatchObject({ status: 404 });
  });
  test('build nothing, and have rights with forms that are there', async () => {
    const rights = [{ form: 'bench_task', rights: ['see' as const] }];
    expect(await refusal(addProgram(t.ws, peg, { name: 'X', roles: ['designer'], rights }))).toMatchObject({ status: 422 });
    expect(
      await refusal(addProgram(t.ws, peg, { name: 'X', roles: ['clerk'], rights: [{ form: 'gone', rights: ['see'] }] })),
    ).toMatchObject({ status: 404 });
  });
});
