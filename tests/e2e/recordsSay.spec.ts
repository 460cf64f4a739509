import { expect, test } from './workspace';
import { choose, control, signIn, signInHttp } from './helpers';

/* What the records of a form say: how well its fills work. */

test('what clerks do out of habit is seen: what is typed over, with what, and what is never chosen', async ({ page }) => {
  await signIn(page, 'Maud');
  await page.goto('/design/forms/lot_intake');
  await page.getByRole('link', { name: 'What the records say' }).click();
  await expect(page.getByText(/\d+ records: .*keys each, the fills save \d+/)).toBeVisible();
  const table = page.getByRole('table', { name: 'How well it fills' });
  const collected = table.getByRole('row').filter({ hasText: 'Collected on' });
  await expect(collected).toContainText('typed over, mostly 3 days before');
  await expect(collected.getByRole('img', { name: 'mostly not kept' })).toBeVisible();
  await expect(page.getByText(/Purity: Whole seed heads/)).toBeVisible();
  await collected.getByRole('button', { name: 'Collected on' }).press('Enter');
  const aside = page.getByRole('complementary', { name: 'Collected on' });
  await expect(aside).toContainText('Typed over with');
  await expect(aside).toContainText(/3 days before\s*\d+ of \d+/);
  // of fewer records
  await page.getByRole('button', { name: /^At which step/ }).click();
  await page.getByRole('option', { name: 'now Registered' }).click();
  await expect(page).toHaveURL(/step=registered/);
  await expect(page.getByText(/\d+ records: .*keys each/)).toBeVisible();
  await page.goto('/design/forms/lot_intake/records-say?version=1&span=month');
  await expect(page.getByText(/record|No record was saved so/).first()).toBeVisible();
});

test('how it is entered is counted: what was searched and not found, what was chosen, without who', async ({ page }) => {
  await signIn(page, 'Ida');
  await page.goto('/entry/lot_intake/new');
  await choose(page, 'family', 'Fagaceae');
  // sought by a name that no list knows, then by its own
  await control(page, 'species').fill('zzoak');
  await page.keyboard.press('Tab');
  await control(page, 'species').fill('');
  await choose(page, 'species', 'Quercus robur');
  await choose(page, 'region', 'North Marrow');
  await choose(page, 'site', 'Hobb’s Lot');
  await control(page, 'quantity_g').fill('12.5');
  await control(page, 'purity').click();
  await page.getByRole('option').first().click();
  await page.keyboard.press('Control+s');
  await expect(page).toHaveURL(/\/entry\/lot_intake(\?|$)/);
  await page.context().clearCookies();
  await signIn(page, 'Maud');
  await page.goto('/design/forms/lot_intake/records-say');
  const told = page.getByRole('region', { name: 'How it is entered' });
  await expect(told).toContainText(/half of the entries take at most \d+ s by version 1/);
  const species = told.getByRole('row').filter({ hasText: 'Species' });
  await expect(species).toContainText('zzoak (1)');
});

test('a proposal is taken into the draft and undone; refused, it stays away', async ({ page }) => {
  await signIn(page, 'Maud');
  await page.goto('/design/forms/lot_intake/records-say');
  const proposals = page.getByRole('region', { name: 'Proposals' });
  const check = proposals.getByRole('listitem').filter({ hasText: 'could be checked' }).filter({ hasText: 'Collected on' });
  await expect(check).toContainText('collected_on > quarantine_from');
  await expect(check).toContainText(/fits (\d+) of \1 records \(100 %\)/);
  await check.getByRole('button', { name: 'Take it into the draft' }).press('Enter');
  await expect(check).toContainText('In the draft.');
  const checks = async (): Promise<string[]> => {
    const { draft } = (await (await page.request.get('/api/forms/lot_intake/draft')).json()) as {
      draft: { fields: Record<string, { checks: { when: string }[] }> };
    };
    return draft.fields.collected_on!.checks.map((c) => c.when);
  };
  await expect.poll(checks).toContain('collected_on > quarantine_from');
  await check.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(checks).not.toContain('collected_on > quarantine_from');
  await check.getByRole('button', { name: 'Never' }).click();
  await expect(check).toHaveCount(0);
  await page.reload();
  await expect(proposals.getByRole('button', { name: /refused$/ })).toBeVisible();
  await expect(check).toHaveCount(0);
  await proposals.getByRole('button', { name: /refused$/ }).click();
  await check.getByRole('button', { name: 'Consider it again' }).click();
  await expect(check.getByRole('button', { name: 'Never' })).toBeVisible();
});

test('from a file of old records to a form with its fills: brought in, proposed, taken, published, entered', async ({ page }) => {
  await signIn(page, 'Maud');
  await page.goto('/design/tables/import');
  await page.getByLabel('File to import').setInputFiles('demo/old-ledger.csv');
  await expect(page.getByLabel('Table Species links to')).toHaveText('of Species');
  await page.getByRole('button', { name: 'Import 2,000 rows' }).click();
  await expect(page.getByText(/2,000 rows imported/)).toBeVisible({ timeout: 60_000 });
  // what is written again and again is said once: cabinets in rooms in houses
  const together = page.getByRole('region', { name: 'Columns that come together' });
  await expect(together).toContainText('Each Cabinet has one Room');
  await expect(together).toContainText('Each Room has one House');
  await together.getByLabel('Label of the table of Cabinet').fill('Old cabinets');
  await together.getByLabel('Label of the table of Room').fill('Old rooms');
  await together.getByText('1 row says otherwise').first().click();
  await expect(together).toContainText('row 903: Room is Lower room; of most with the same Cabinet, Upper room');
  await together.getByRole('button', { name: 'Make them 2 tables' }).click();
  await expect(together.getByRole('alert')).toContainText('1 row says otherwise and would say what most say');
  await together.getByRole('button', { name: 'Let them say what most say, and split' }).click();
  await expect(together).toContainText(/Old rooms \(7 rows\) and Old cabinets \(24 rows\) are tables of their own now/);
  // undone, and made again
  await together.getByRole('button', { name: 'Undo' }).click();
  await expect(together).toContainText('The columns are as they were.');
  await together.getByRole('button', { name: 'Make them 2 tables' }).click();
  await together.getByRole('button', { name: 'Let them say what most say, and split' }).click();
  await expect(together.getByRole('link', { name: 'Old cabinets' })).toBeVisible();
  await page.getByRole('button', { name: 'Make a form of it' }).click();
  const proposals = page.getByRole('region', { name: 'Proposals' });
  for (const said of ['choice.genus = genus', 'choice.region = region', 'species.storage_c', 'grams / thousand_seeds_g * 1000', '"air"', 'collected > dry_since'])
    await expect(proposals).toContainText(said);
  // the two lines that were written the wrong way round
  const check = proposals.getByRole('listitem').filter({ hasText: 'collected > dry_since' });
  await expect(check.getByRole('link')).toHaveText(['612', '1405']);
  // before it is published, they are looked at in their table
  await expect(check.getByRole('link', { name: '612' })).toHaveAttribute('href', '/design/tables/old_ledger?row=612');
  await proposals.getByRole('button', { name: /^Take all \d into the draft$/ }).click();
  await expect(proposals).toContainText(/\d taken into the draft/);
  // left at once, nothing of it is lost
  await proposals.getByRole('link', { name: 'Try the form' }).click();
  await expect(control(page, 'dried_by')).toHaveValue('air');
  await page.keyboard.press('Control+Shift+P');
  await page.getByRole('button', { name: 'Publish', exact: true }).click();
  await expect(page.getByText('Version 1 is published.')).toBeVisible();
  await page.goto('/entry/old_ledger/new');
  await choose(page, 'genus', 'Quercus');
  await expect(control(page, 'genus')).toHaveValue('Quercus');
  await choose(page, 'species', 'Quercus robur');
  await expect(control(page, 'species')).toHaveValue('Quercus robur');
  await expect(control(page, 'kept_at')).not.toHaveValue('');
  await choose(page, 'cabinet', 'Cabinet B2');
  await control(page, 'grams').fill('12.5');
  await control(page, 'thousand_seeds_g').fill('2.5');
  await control(page, 'thousand_seeds_g').press('Tab');
  await expect(control(page, 'seeds')).toHaveValue(/^5[,.]?000/);
  await page.keyboard.press('Control+s');
  await expect(page).toHaveURL(/\/entry\/old_ledger(\?|$)/);
}); // prettier-ignore

test('a clerk is told nothing of it', async ({ page, request }) => {
  await signInHttp(request, 'ida@marrowfen.example');
  for (const what of ['fills', 'proposals'])
    expect((await request.post(`/api/forms/lot_intake/evidence/${what}`, { data: {} })).status()).toBe(403);
  const refuse = { data: { proposal: 'x', refused: true } };
  expect((await request.put('/api/forms/lot_intake/evidence/refused', refuse)).status()).toBe(403);
  await signIn(page, 'Ida');
  await page.goto('/entry/lot_intake/new');
  await expect(control(page, 'family')).toBeVisible();
});
