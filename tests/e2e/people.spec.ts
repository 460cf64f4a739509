import { readFileSync } from 'node:fs';
import { expect, test } from './workspace';
import { control, field, pickWord, signIn, signInAtHome, signInHttp } from './helpers';

/* People are invited, change what they may and are put out of use; programs ask with tokens; rights with a form; whose a record is; files. */

test('somebody is invited by a one-time link, sets a password, works, and is put out of use', async ({ page, browser }) => {
  await signInAtHome(page, 'Peg Sluice');
  await page.getByRole('navigation', { name: 'Places' }).getByRole('link', { name: 'People' }).click();
  await page.getByRole('button', { name: 'Invite somebody' }).click();
  const dialog = page.getByRole('dialog', { name: 'Invite somebody' });
  await pickWord(dialog, 'Person', 'Jory Marsh');
  await expect(dialog.getByLabel('E-mail')).toHaveValue('jory@marrowfen.example');
  await dialog.getByText('reviewer', { exact: true }).click();
  await dialog.getByRole('button', { name: 'Make the link' }).click();
  const link = await page.getByRole('textbox', { name: 'The link' }).inputValue();
  expect(link).toMatch(/\/welcome\/[\w-]{20,}$/);
  await page.getByRole('button', { name: 'Done' }).click();
  await expect(page.getByRole('row', { name: /Jory Marsh/ })).toContainText('invited, link not used yet');
  const other = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  await other.goto(link);
  await expect(other.getByRole('heading')).toHaveText('Welcome to Marrow Fen Seed Bank, Jory Marsh');
  await other.getByLabel(/^Password/).fill('reed-and-sedge');
  await other.getByLabel('The same again').fill('reed-and-sedg');
  await other.getByRole('button', { name: /^Set the password/ }).click();
  await expect(other.getByText('The two passwords differ.')).toBeVisible();
  await other.getByLabel('The same again').fill('reed-and-sedge');
  await other.getByRole('button', { name: /^Set the password/ }).click();
  await expect(other.getByRole('heading', { name: 'Good day, Jory' })).toBeVisible();
  await expect(other.getByRole('navigation', { name: 'Places' }).getByRole('link', { name: 'People' }), 'no administrator').toHaveCount(0);
  await other.goto('/admin');
  await expect(other.getByText('are for administrators', { exact: false })).toBeVisible();
  await other.goto(link);
  await expect(other.getByText('used already', { exact: false })).toBeVisible();
  await page.getByRole('button', { name: 'Jory Marsh', exact: true }).click();
  await page.getByRole('dialog').getByRole('switch').click();
  await page.getByRole('dialog').getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('row', { name: /Jory Marsh/ })).toContainText('out of use');
  await other.goto('/entry');
  await expect(other).toHaveURL(/sign-in/);
  await other.close();
  await test.step('the last administrator stays one', async () => {
    await page.getByRole('button', { name: 'Peg Sluice', exact: true }).click();
    await page.getByRole('dialog').getByText('designer', { exact: true }).click();
    await page.getByRole('dialog').getByText('administrator', { exact: true }).click();
    await page.getByRole('dialog').getByRole('button', { name: 'Save' }).click();
    await expect(page.getByText('is the last administrator', { exact: false })).toBeVisible();
  });
});

test('of very many people a hundred are drawn at once, and anybody is found', async ({ page }) => {
  await signIn(page, 'Peg Sluice');
  for (let i = 0; i < 110; i++) {
    const data = { person: null, name: `Visitor ${i}`, email: `v${i}@fen.example`, team: i % 2 ? 'Guests' : null, roles: ['clerk'] };
    expect((await page.request.post('/api/accounts', { data })).status()).toBe(200);
  }
  await page.goto('/admin');
  const rows = page.getByRole('table', { name: 'Accounts' }).getByRole('row');
  // with the head of the table
  await expect(rows).toHaveCount(101);
  await page.getByRole('button', { name: 'Page 2' }).click();
  await expect(rows).not.toHaveCount(101);
  const sought = page.getByRole('searchbox', { name: 'Find somebody' });
  await sought.fill('V107@FEN');
  await expect(page.getByRole('button', { name: 'Visitor 107', exact: true })).toBeVisible();
  await expect(rows).toHaveCount(2);
  await sought.fill('guests');
  await expect(rows).toHaveCount(56);
  await sought.fill('nobody of that name');
  await expect(page.getByText('Nobody here is called so')).toBeVisible();
});

test('a program asks with its token what it was given, and nothing else', async ({ page, playwright, baseURL }) => {
  await signIn(page, 'Peg Sluice');
  await page.goto('/admin/programs');
  await page.getByRole('button', { name: 'New token' }).click();
  await page.getByLabel(/^What the program is called/).fill('Bench scale');
  await page.getByRole('checkbox', { name: 'Bench task: enter' }).check();
  await page.getByRole('checkbox', { name: 'Bench task: see' }).check();
  await page.getByRole('button', { name: 'Make the token' }).click();
  const token = await page.getByRole('textbox', { name: 'The token' }).inputValue();
  await page.getByRole('button', { name: 'Done' }).click();
  const program = await playwright.request.newContext({ baseURL, extraHTTPHeaders: { authorization: `Bearer ${token}` } });
  const begun = (await (await program.get('/api/forms/bench_task/entry')).json()) as { version: number };
  const save = (edits: object[], request: string) =>
    program.post('/api/forms/bench_task/records', { data: { version: begun.version, edits, revision: null, request } });
  expect((await save([{ kind: 'set', field: 'day', value: null }], 'a scale asks 1')).status(), 'the same checks').toBe(422);
  const saved = await save([{ kind: 'set', field: 'task', value: 'Weigh the trays' }], 'a scale asks 2');
  expect(saved.status()).toBe(200);
  const { id } = (await saved.json()) as { id: number };
  expect(await (await program.get(`/api/forms/bench_task/records/${id}/history`)).text()).toContain('Bench scale');
  for (const [method, path] of [
    ['get', '/api/forms/lot_intake/records'],
    ['get', '/api/forms/lot_intake/entry'],
    ['get', '/api/tables'],
    ['get', '/api/accounts'],
    ['get', '/api/forms/bench_task/draft'],
    ['put', `/api/forms/bench_task/records/${id}`],
  ] as const)
    expect(
      (
        await program[method](path, {
          data: method === 'put' ? { version: 1, edits: [], revision: 1, request: 'a scale asks 3' } : undefined,
        })
      ).status(),
      path,
    ).toBe(403);
  expect(((await (await program.get('/api/forms')).json()) as { key: string }[]).map((f) => f.key)).toEqual(['bench_task']);
  await page.getByRole('button', { name: 'End the token of Bench scale' }).click();
  await page.getByRole('button', { name: 'End it', exact: true }).last().click();
  await expect(page.getByText('No program has a token.')).toBeVisible();
  expect((await program.get('/api/forms')).status()).toBe(401);
  await program.dispose();
});

test('rights with a form hold at once: who may not see it finds it nowhere', async ({ page, request }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/seed_request');
  await page.getByRole('button', { name: 'Form settings' }).click();
  await pickWord(page.getByRole('main'), 'Records are seen by', 'reviewers');
  await pickWord(page.getByRole('main'), 'New records are entered by', 'reviewers');
  await expect(page.getByRole('button', { name: 'Without reviewers' })).toHaveCount(2);
  await signInHttp(request, 'ida@marrowfen.example');
  expect(((await (await request.get('/api/forms')).json()) as { key: string }[]).map((f) => f.key)).not.toContain('seed_request');
  for (const path of ['records', 'entry', 'records/1', 'records/1/history', 'records/1/related'])
    expect((await request.get(`/api/forms/seed_request/${path}`)).status(), path).toBe(403);
  await signInHttp(request, 'nell@marrowfen.example');
  expect((await request.get('/api/forms/seed_request/records')).status()).toBe(200);
});

test('deleting and exporting are rights: who has them is offered it, everybody else is refused', async ({ page, request }) => {
  /** Goes there until it is known, and drawn, what one may do. */
  const go = async (path: string): Promise<void> => {
    const rights = page.waitForResponse((r) => new URL(r.url()).pathname === '/api/forms');
    await page.goto(path);
    await (await rights).finished();
    await page.evaluate(() => new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn))));
  };
  const offered = async (): Promise<[number, number]> => {
    await go('/entry/germination_test');
    await expect(page.getByRole('button', { name: 'New entry' }).or(page.getByRole('link', { name: 'New entry' }))).toBeVisible();
    const exporting = await page.getByRole('button', { name: 'Export…' }).count();
    await go('/entry/germination_test/1');
    await expect(page.getByRole('heading', { name: /record 1/ })).toBeVisible();
    return [exporting, await page.getByRole('button', { name: 'Delete', exact: true }).count()];
  };
  const asks = async (): Promise<number[]> => [
    (await request.get('/api/forms/germination_test/export?as=csv')).status(),
    (
      await request.delete('/api/forms/germination_test/records/1?revision=1', { headers: { origin: new URL(page.url()).origin } })
    ).status(),
  ];
  await signIn(page, 'Ida Fenn');
  await signInHttp(request, 'ida@marrowfen.example');
  expect(await offered()).toEqual([0, 0]);
  expect(await asks()).toEqual([403, 403]);
  await signInHttp(request, 'maud@marrowfen.example');
  const rights = (await (await request.get('/api/forms/germination_test/rights')).json()) as object;
  const clerks = { roles: ['clerk'], teams: [] };
  const put = await request.put('/api/forms/germination_test/rights', { data: { ...rights, delete: clerks, export: clerks } });
  expect(put.status()).toBe(200);
  expect(await offered()).toEqual([1, 1]);
  await page.getByRole('button', { name: 'Delete', exact: true }).click();
  await expect(page.getByRole('alertdialog')).toContainText('This record of Germination test will be gone');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByRole('alertdialog')).toHaveCount(0);
  await page.getByRole('button', { name: 'Delete', exact: true }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Delete' }).click();
  await expect(page).toHaveURL(/\/entry\/germination_test\?gone=1$/);
  await expect(page.getByText('Record 1 is deleted')).toBeVisible();
  await page.getByRole('button', { name: 'Export…' }).click();
  const file = await page.request.get((await page.getByRole('menuitem', { name: /^CSV/ }).locator('a').getAttribute('href')) ?? '');
  expect(file.headers()['content-disposition']).toContain('germination_test.csv');
  expect((await file.text()).split('\n')[0]).toContain('Lot,');
  expect((await page.request.get('/api/forms/germination_test/records/1')).status()).toBe(404);
});

test('a bench task is the Field team’s by the words in it: the Lab does not see it', async ({ page, request }) => {
  await signIn(page, 'Ida Fenn');
  await page.goto('/entry/bench_task/new');
  await control(page, 'task').fill('Prick out the hiddenword seedlings');
  await page.keyboard.press('Tab');
  await expect(control(page, 'team')).toHaveValue('Field');
  await page.keyboard.press('Control+s');
  await expect(page).toHaveURL(/\/entry\/bench_task$/);
  await expect(page.getByText('hiddenword').first()).toBeVisible();
  await signInHttp(request, 'nell@marrowfen.example');
  const told = await (await request.get('/api/forms/bench_task/records?limit=500&search=hiddenword')).text();
  expect(told).not.toContain('hiddenword');
});

test('files: several are dropped and pasted, what is wrong is said at once, pictures are looked at', async ({ page }) => {
  await signIn(page, 'Ida Fenn');
  await page.goto('/entry/lot_intake/new');
  await control(page, 'species').click();
  await page.keyboard.type('Mentha pulegium');
  await expect(page.getByRole('option', { name: /^Mentha pulegium/ }).first()).toBeVisible();
  await page.keyboard.press('Enter');
  const permit = field(page, 'permit');
  const png = Buffer.from('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==', 'base64');
  await permit.locator('input[type="file"]').first().setInputFiles({ name: 'scan.pdf', mimeType: 'application/pdf', buffer: png });
  await expect(permit.getByText('Permit takes only PDF; “scan.pdf” is a PNG picture named .pdf.')).toBeVisible();
  await permit.getByRole('button', { name: 'Look at scan.pdf' }).click();
  await expect(page.getByRole('dialog').getByRole('img')).toBeVisible();
  await page.keyboard.press('Escape');
  await permit.getByRole('button', { name: 'Remove scan.pdf' }).click();
  await expect(permit.getByText('takes only PDF')).toHaveCount(0);
});

test('a whole workspace is downloaded as an archive; where its names are taken it is not brought in', async ({ page, request }) => {
  await signInHttp(request, 'maud@marrowfen.example');
  expect((await request.get('/api/workspace/archive')).status(), 'for administrators alone').toBe(403);
  await signIn(page, 'Peg Sluice');
  await page.goto('/admin/workspace');
  const coming = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Download the archive' }).click();
  const path = await (await coming).path();
  await page
    .locator('input[type="file"]')
    .setInputFiles({ name: 'workspace.zip', mimeType: 'application/zip', buffer: readFileSync(path) });
  await expect(page.getByText(/^This workspace has already the table/)).toBeVisible();
  await page
    .locator('input[type="file"]')
    .setInputFiles({ name: 'workspace.zip', mimeType: 'application/zip', buffer: Buffer.from('no archive') });
  await expect(page.getByText(/^The file is no archive that can be read/)).toBeVisible();
});
