import { expect, test } from './workspace';
import { choose, control, field, formulaText, pickWord, row, signIn, signInHttp } from './helpers';

/* A form that is built is tried as anybody, on anything, at any time; nothing of it is saved. */
test('the form is tried on a record found by its name, to be read, at another step; at another moment what was typed stays', async ({
  page,
}) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake');
  await expect(control(page, 'code')).toBeVisible();
  const bar = page.getByRole('main');
  await page.getByRole('button', { name: 'otherwise…' }).click();
  await test.step('another moment: defaults follow it, what was typed stays', async () => {
    await choose(page, 'genus', 'Achillea');
    await page.getByLabel(/^The moment it is taken to be/).fill('2027-03-01 08:00');
    await page.keyboard.press('Tab');
    await expect(control(page, 'collected_on')).toHaveValue('1 Mar 2027');
    await expect(control(page, 'genus')).toHaveValue('Achillea');
  });
  await test.step('services that fail: what the form says then', async () => {
    await pickWord(bar, 'How services answer', /^fail/);
    await expect(field(page, 'accepted_name')).toContainText('The service is tried as failing.');
    await expect(control(page, 'genus')).toHaveValue('Achillea');
    await pickWord(bar, 'How services answer', /^answer/);
    await expect(field(page, 'accepted_name')).not.toContainText('tried as failing');
  });
  await test.step('a record, as people find it', async () => {
    await page.getByRole('button', { name: /^What it is tried on/ }).click();
    await expect(page.getByRole('combobox', { name: 'What it is tried on' })).toBeFocused();
    await page.keyboard.type('MF-');
    const found = page.getByRole('option', { name: /^MF-/ }).first();
    const code = await found.innerText();
    await found.click();
    await expect(page.getByRole('button', { name: `What it is tried on: ${code}` })).toBeVisible();
    await expect(control(page, 'code')).toHaveValue(code);
    await pickWord(bar, 'At which step', 'the step In quarantine');
    await expect(control(page, 'status')).toHaveValue('In quarantine');
    await pickWord(bar, 'At which step', 'the step Released');
    await expect(control(page, 'status')).toHaveValue('Released');
    await pickWord(bar, 'How it is opened', 'be read');
    await page.getByRole('button', { name: 'less' }).click();
    await expect(page.getByRole('button', { name: /^to be read, at the step Released, 1 Mar 2027/ })).toBeVisible();
  });
  await page.getByRole('button', { name: /^What it is tried on/ }).click();
  await page.getByRole('button', { name: 'a new entry', exact: true }).click();
  await expect(page.getByRole('button', { name: 'What it is tried on: a new entry' })).toBeFocused();
  await expect(field(page, 'code')).toContainText('provisional');
});

test('what saving would say: what must be corrected, led to; then what would be stored; nothing is written', async ({ page, request }) => {
  await signInHttp(request, 'maud@marrowfen.example');
  const count = async (): Promise<number> =>
    ((await (await request.get('/api/forms/bench_task/records')).json()) as { total: number }).total;
  const before = await count();
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/bench_task');
  await expect(control(page, 'task')).toBeVisible();
  const dialog = page.getByRole('dialog', { name: 'What saving would say' });
  await page.getByRole('button', { name: 'What would saving say?' }).click();
  await expect(dialog).toContainText('Not saved: this must be corrected.');
  await dialog.getByRole('button', { name: 'Task' }).click();
  await expect(dialog).toHaveCount(0);
  await expect(control(page, 'task')).toBeFocused();
  await page.keyboard.type('sow two trays');
  await page.keyboard.press('Tab');
  await page.getByRole('button', { name: 'What would saving say?' }).click();
  await expect(dialog).toContainText('It would be saved, with');
  await expect(dialog).toContainText('sow two trays');
  await expect(dialog, 'the team follows the words, as the server has it').toContainText('Field');
  expect(await count()).toBe(before);
});

test('the trace is narrowed by kind, field and word, and folded by call', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake?field=species');
  await choose(page, 'species', 'Quercus robur');
  const trace = page.getByRole('region', { name: 'Trace' });
  await expect(trace).toContainText('chose Species');
  await expect(trace).toContainText('Genus');
  await pickWord(trace, 'Which changes', 'lists');
  await expect(trace.locator('.line.change').first()).toContainText('list of');
  await expect(trace.locator('.line.change').filter({ hasNotText: 'list of' })).toHaveCount(0);
  await pickWord(trace, 'Which changes', 'all changes');
  await trace.getByRole('button', { name: 'of Species', exact: true }).click();
  await expect(trace.locator('.line.change').filter({ hasNotText: 'Species' })).toHaveCount(0);
  await trace.getByRole('button', { name: 'of Species', exact: true }).click();
  await trace.getByLabel('Find in what happened').fill('storage');
  await expect(trace.locator('.line.change').first()).toContainText('Storage, °C');
  await trace.getByLabel('Find in what happened').fill('no such thing');
  await expect(trace.getByText('Nothing that happened lately fits')).toBeVisible();
  await trace.getByRole('button', { name: 'Show all that happened' }).click();
  await expect(trace.getByLabel('Find in what happened')).toHaveValue('');
  const lines = await trace.locator('.line.change').count();
  await trace.getByRole('button', { name: 'Fold its changes' }).first().click();
  await expect.poll(() => trace.locator('.line.change').count()).toBeLessThan(lines + 1);
  await expect(trace.getByRole('button', { name: /^Show its \d+ changes/ })).toHaveCount(1);
});

test('the try-out stops where a field changes, goes through what happened forward and back, and typing ends it', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake');
  const trace = page.getByRole('region', { name: 'Trace' });
  await choose(page, 'species', 'Quercus robur');
  await expect(control(page, 'storage_c')).toHaveValue('2');

  // pressing a field shows what it last did
  await row(page, 'storage_c').locator('.name').click();
  await expect(trace.locator('.line.last')).toContainText('prefill Storage, °C');
  // and its formula opens where it stands
  await trace.locator('.line.last').getByRole('button', { name: 'The formula of Storage, °C: species.storage_c' }).click();
  await expect(formulaText(page)).toBeVisible();
  await page.keyboard.press('Escape');

  await pickWord(trace, 'Stop and show when', 'Germination days changes');
  await control(page, 'species').click();
  await page.keyboard.press('Control+A');
  await page.keyboard.press('Delete');
  await page.keyboard.press('Tab');
  const stops = trace.getByRole('group', { name: 'Stops' });
  await expect(stops.getByRole('status')).toContainText('Germination days');
  await expect(trace.locator('.line.here')).toContainText('Germination days');
  await expect(control(page, 'germination_days')).toHaveValue('');

  // back through the settle: what had not happened yet stands as it was
  await stops.getByRole('button', { name: 'Back', exact: true }).click();
  await expect(control(page, 'germination_days')).toHaveValue('21');
  await expect(control(page, 'storage_c')).toHaveValue('');
  await stops.getByRole('button', { name: 'Back', exact: true }).click();
  await expect(control(page, 'storage_c')).toHaveValue('2');
  await expect(control(page, 'species')).toHaveValue('');
  await stops.getByRole('button', { name: 'Forward' }).click();
  await expect(control(page, 'storage_c')).toHaveValue('');
  await stops.getByRole('button', { name: 'Go on to the next stop' }).click();
  await expect(control(page, 'germination_days')).toHaveValue('');
  await stops.getByRole('button', { name: 'Go on to the next stop' }).click();
  await expect(stops.getByRole('button', { name: 'Forward' })).toHaveCount(0);

  // a line leads to its moment; what is typed then is typed now, and the looking ends
  await trace.getByRole('button', { name: 'Show the form as it was after this: emptied Storage, °C' }).click();
  await expect(control(page, 'germination_days')).toHaveValue('21');
  await control(page, 'quantity_g').fill('12');
  await expect(control(page, 'germination_days')).toHaveValue('');
  await expect(control(page, 'quantity_g')).toHaveValue('12');
  await stops.getByRole('button', { name: 'No longer stop at Germination days' }).click();
  await expect(stops).toHaveCount(0);

  // where the time went, by part
  await pickWord(trace, 'What is shown', 'where the time went in all');
  const times = trace.getByRole('table', { name: 'Where the time went' });
  await expect(times.getByRole('row').filter({ hasText: 'Species' }).filter({ hasText: 'list' })).toBeVisible();
});

test('how it is tried is kept by a name and chosen again; a link is filled in through the form’s own controls and names rows', async ({
  page,
}) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake');
  await page.getByRole('button', { name: 'otherwise…' }).click();
  const more = page.getByRole('group', { name: 'More of how it is tried' });
  await more.getByRole('button', { name: 'Link values: no link' }).click();
  const link = page.getByRole('dialog', { name: 'Opened by a link that fills in' });
  const species = link.locator('[data-field="species"] input').first();
  await species.click();
  await page.keyboard.type('Quercus robur');
  await expect(page.getByRole('option', { name: /^Quercus robur/ }).first()).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(link.locator('[data-field="genus"] input').first()).toHaveValue('Quercus');
  await link.getByRole('button', { name: 'Try it so' }).click();
  // the dialog has a field of the same name until it has closed
  await expect(link).toBeHidden();
  await expect(more.getByRole('button', { name: 'Link values: a link with Species Quercus robur' })).toBeVisible();
  await expect(control(page, 'species')).toHaveValue('Quercus robur');
  await expect(field(page, 'species')).toContainText('from the link');

  await control(page, 'quantity_g').fill('77');
  await page.keyboard.press('Tab');
  await more.getByRole('button', { name: 'situations…' }).click();
  const popover = page.getByRole('dialog', { name: 'Situations' });
  await popover.getByLabel('What the situation is called').fill('An oak of 77 g');
  await popover.getByRole('button', { name: 'Keep as it is now' }).click();
  await expect(popover.getByRole('button', { name: 'An oak of 77 g', exact: true })).toBeVisible();
  await page.keyboard.press('Escape');

  await page.getByRole('button', { name: 'Start over' }).click();
  await expect(control(page, 'quantity_g')).toHaveValue('');
  await page.reload();
  await page.getByRole('button', { name: 'otherwise…' }).click();
  await more.getByRole('button', { name: 'situations…' }).click();
  await popover.getByRole('button', { name: 'An oak of 77 g', exact: true }).click();
  await expect(control(page, 'quantity_g')).toHaveValue('77.00');
  await expect(control(page, 'species')).toHaveValue('Quercus robur');
  await expect(more.getByRole('button', { name: 'Link values: a link with Species Quercus robur' })).toBeVisible();
  await more.getByRole('button', { name: 'situations…' }).click();
  await popover.getByRole('button', { name: 'Remove the situation An oak of 77 g' }).click();
  await expect(popover.getByRole('button', { name: 'An oak of 77 g', exact: true })).toHaveCount(0);
  await page.keyboard.press('Escape');

  // the link that is made of what is tried opens for a clerk with the same
  await page.getByRole('button', { name: 'Create a link' }).click();
  const address = page.getByRole('textbox', { name: 'The link' });
  await expect(address).toHaveValue(/species=Quercus\+robur/);
  await expect(address).toHaveValue(/quantity_g=77/);
  const to = new URL(await address.inputValue());
  await page.goto(`${to.pathname}${to.search}`);
  await expect(control(page, 'species')).toHaveValue('Quercus robur');
  await expect(control(page, 'quantity_g')).toHaveValue('77.00');
});

test('a value that was expected: which name would have to be otherwise, and which rows have it', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake');
  await choose(page, 'species', 'Quercus robur');
  await expect(control(page, 'storage_c')).toHaveValue('2');
  await control(page, 'storage_c').click();
  await page.keyboard.press('Alt+w');
  const why = page.getByRole('complementary', { name: 'Why Storage, °C' });
  const expected = why.getByLabel('What was expected');
  await expected.fill('-20');
  await expected.press('Enter');
  await expect(why).toContainText(/storage c \(2\) would have to be −20\. \d+ rows of Species have that: /);
  await expected.fill('2');
  await expected.press('Enter');
  await expect(why).toContainText('It holds 2.');
  // typed over: the formula would have given it
  await control(page, 'storage_c').fill('4');
  await page.keyboard.press('Tab');
  await control(page, 'storage_c').click();
  await page.keyboard.press('Alt+w');
  await why.getByLabel('What was expected').fill('2');
  await why.getByLabel('What was expected').press('Enter');
  await expect(why).toContainText('It was typed. Its own formula would give 2, as you expected.');
});
