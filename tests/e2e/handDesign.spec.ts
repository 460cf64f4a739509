import { expect, test } from './workspace';
import { control, csv, editor, field, formulaText, formulaWord, pickOne, pickWord, pressField, signIn, wiringOf } from './helpers';

/* Where designers stumbled: conditions, fixed values, imports, what can be undone, what a record is called. */

const saved = (page: import('@playwright/test').Page) => expect(page.getByRole('status').filter({ hasText: /^saved$/ })).toBeVisible();
const funnel = (page: import('@playwright/test').Page) =>
  wiringOf(page).getByRole('list', { name: 'Candidates left after each condition' }).getByRole('listitem');

test('a condition applies once it is finished; likely fields come first, links are pressed together, groups keep their shape', async ({
  page,
}) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake?field=plot');
  const wiring = wiringOf(page);
  await test.step('begun, it narrows nothing and says so; three links away is three presses', async () => {
    await wiring.getByRole('button', { name: /^Add a condition on/ }).click();
    await page.getByRole('option', { name: 'site › …' }).click();
    await page.getByRole('option', { name: 'site › region › …' }).click();
    await page.getByRole('option', { name: 'site › region › name', exact: true }).click();
    await expect(wiring.getByText('What is not finished does not apply yet.')).toBeVisible();
    // the next word opened by itself; its list is left, another field looked at, and it is still there
    await page.keyboard.press('Escape');
    await pressField(page, 'region');
    await pressField(page, 'plot');
    await expect(wiring.getByRole('button', { name: /^With: choose what/ })).toBeVisible();
    await expect(page.getByRole('button', { name: /not published/ })).toHaveCount(0);
  });
  await test.step('a fixed value is chosen from its column; what is not there is marked', async () => {
    await wiring.getByRole('button', { name: /^With: choose what/ }).click();
    await page.getByRole('option', { name: 'a fixed value…' }).click();
    const value = page.getByRole('combobox', { name: /^Fixed value of site › region › name/ });
    await expect(page.getByRole('option', { name: 'Tarn Fells' })).toBeVisible();
    await value.fill('Nowhere');
    await expect(wiring.getByText('Nothing there is “Nowhere”.')).toBeVisible();
    // what is offered begins with it: nothing is wrong yet
    await value.fill('tarn');
    await expect(page.getByRole('option', { name: 'Tarn Fells' })).toBeVisible();
    await expect(wiring.getByText(/^Nothing there is/)).toHaveCount(0);
    await value.fill('tarn fells');
    await page.keyboard.press('Enter');
    await expect(wiring).toContainText('site › region › name is “Tarn Fells”');
  });
  await test.step('“and” becomes “or” by a press; a group begins as any of, with a first part of its own', async () => {
    await pickWord(wiring, 'How the conditions join', /^or/);
    await expect(wiring).toContainText('site is the entry’s Site or site › region › name is “Tarn Fells”');
    await wiring.getByRole('button', { name: 'Add a group of conditions' }).click();
    await page.getByRole('option', { name: 'habitat', exact: true }).click();
    // the field of the same name stands first
    await expect(page.getByRole('option').first()).toHaveText('the entry’s Habitat');
    await page.keyboard.press('Enter');
    await expect(wiring).toContainText('all of: habitat is the entry’s Habitat');
    await pressField(page, 'region');
    await pressField(page, 'plot');
    await expect(wiring, 'a group of one stays a group').toContainText('all of: habitat is the entry’s Habitat');
  });
  await test.step('all of it is undone', async () => {
    for (let i = 0; i < 3; i++) await page.getByRole('button', { name: 'Undo' }).click();
    await expect(wiring).toContainText('Offered when site is the entry’s Site');
    await expect(page.getByRole('button', { name: /not published/ })).toHaveCount(0);
    await saved(page);
  });
});

test('funnel and why speak in words, and an empty part says what there is instead', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake?field=site');
  await control(page, 'region').click();
  await page.getByRole('option', { name: /North Marrow/ }).click();
  await pressField(page, 'site');
  await expect(funnel(page)).toHaveText([
    /all rows of Sites\s*70/,
    /its region is the entry’s Region \(North Marrow\)\s*10/,
    /active is yes/,
  ]);
  const wiring = wiringOf(page);
  await wiring.getByRole('button', { name: /^Add a condition on/ }).click();
  await page.getByRole('option', { name: 'landowner', exact: true }).click();
  await page.getByRole('option', { name: 'a fixed value…' }).click();
  await page.getByRole('combobox', { name: 'Fixed value of landowner' }).fill('Nobody');
  await page.keyboard.press('Enter');
  await expect(funnel(page).last()).toContainText('its landowner is “Nobody”');
  await expect(funnel(page).last()).toContainText(/There are: .+ \(\d+\)/);
  await control(page, 'site').focus();
  await page.keyboard.press('Alt+w');
  await expect(page.getByRole('complementary')).toContainText('Nothing is offered: no row is left once its landowner is “Nobody”.');
  await page.getByRole('button', { name: 'Undo' }).click();
  await saved(page);
});

test('what is searched keeps the column shown when another is added; usual settings are folded', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake?field=shelf');
  const wiring = wiringOf(page);
  await expect(wiring.locator('section').first()).toContainText(/Choices are rows of Shelves, shown as name\s*, sorted by name \+\./);
  await wiring.getByRole('button', { name: 'more…' }).click();
  await pickWord(wiring, 'One more searched column', 'store');
  await expect(wiring).toContainText('searched by name and store');
  await page.getByRole('button', { name: 'Undo' }).click();
  await saved(page);
});

test('values of one table with repeating columns cascade by the same press as links', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms');
  await page.getByRole('button', { name: 'New form' }).click();
  await page.getByLabel('What is it called?').fill('Address check');
  await page.getByRole('button', { name: 'Create the form' }).click();
  await expect(page.getByText('This form has no fields yet.')).toBeVisible();
  const wiring = wiringOf(page);
  for (const label of ['Town', 'Street']) {
    await page.getByRole('button', { name: '+ field' }).click();
    await page.getByLabel('Label of the new field').fill(label);
    await pickOne(page, 'Type of the new field', 'Choice');
    await page.getByRole('button', { name: 'Add', exact: true }).click();
    await pickWord(wiring, 'Kind of list', 'the values of a column');
    await pickWord(wiring, 'Table', /^Partner addresses/);
    await pickWord(wiring, 'Column of values', label.toLowerCase());
  }
  await wiring.getByRole('button', { name: '+ town is the entry’s Town' }).click();
  await control(page, 'town').click();
  await page.getByRole('option').first().click();
  await pressField(page, 'street');
  await expect(funnel(page)).toHaveCount(2);
  await expect(funnel(page).last()).toContainText('its town is the entry’s Town');
});

test('a starter leaves no empty editor behind; Escape never discards what is typed unasked, and an unfinished formula is still there', async ({
  page,
}) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake?field=remark');
  const wiring = wiringOf(page);
  await pressField(page, 'quantity_g');
  await pickWord(wiring, 'How it fills', /^is prefilled with/);
  await wiring.locator('.starters').getByRole('button').first().click();
  await expect(editor(page)).toHaveCount(0);
  const taken = await formulaWord(wiring).first().textContent();
  expect(taken?.trim()).not.toBe('');
  await formulaWord(wiring).first().click();
  await formulaText(page).fill('species.germination_days * 2');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('alertdialog')).toContainText('Discard what you typed?');
  await page.getByRole('button', { name: 'Keep editing' }).click();
  await expect(formulaText(page)).toHaveText('species.germination_days * 2');
  // another field is looked at meanwhile
  await pressField(page, 'region');
  await pressField(page, 'quantity_g');
  await expect(formulaText(page)).toHaveText('species.germination_days * 2');
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(formulaWord(wiring).first()).toHaveText(taken!);
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
  await saved(page);
});

test('a default is one of the field’s own choices; a map’s keys come from the list it is asked with, and strangers are marked', async ({
  page,
}) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake?field=store');
  const wiring = wiringOf(page);
  await pickWord(wiring, 'How it fills', /^starts with the default/);
  await page.getByRole('button', { name: 'one of its choices…' }).click();
  await page.getByRole('option').first().click();
  await expect(formulaWord(wiring).first()).toContainText('PICK(stores, choice.name = ');
  await page.getByRole('button', { name: 'Start over' }).click();
  await expect(control(page, 'store')).not.toHaveValue('');
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
  await saved(page);
  await page.goto('/design/forms/seed_request');
  await page.getByRole('button', { name: 'Form settings' }).click();
  const keys = page.getByLabel(/^Keys of line 1 of/).first();
  await keys.fill('pigeon');
  await keys.blur();
  await expect(page.getByText(/has no “pigeon”/)).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText(/has no “pigeon”/)).toHaveCount(0);
  await saved(page);
});

test('a fixed text that nothing is called by stays marked; what a change sets in another field is one of its choices', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake?field=plot');
  const wiring = wiringOf(page);
  await wiring.getByRole('button', { name: /^Add a condition on/ }).click();
  await page.getByRole('option', { name: 'habitat', exact: true }).click();
  await page.getByRole('option', { name: 'a fixed value…' }).click();
  // who is quicker than the answer loses nothing of what they typed
  await page.route(/search=Nowhere/, async (route) => {
    await new Promise((r) => setTimeout(r, 3000));
    await route.continue().catch(() => {});
  });
  await page.getByRole('combobox', { name: /^Fixed value of habitat/ }).fill('Nowhere');
  await page.keyboard.press('Enter');
  await pressField(page, 'region');
  await pressField(page, 'plot');
  await expect(wiring).toContainText('habitat is “Nowhere” (nothing there is called so)');
  await page.getByRole('button', { name: 'Undo' }).click();
  await pressField(page, 'habitat');
  await wiring.getByRole('button', { name: /set or clear another field/ }).click();
  await pickWord(wiring, 'Field', 'Store');
  await pickWord(wiring, 'Does', 'sets');
  await wiring.getByRole('button', { name: 'one of its choices…' }).click();
  await page.getByRole('option', { name: 'Cold room' }).click();
  await expect(wiring).toContainText('PICK(stores, choice.name = "Cold room")');
  for (let i = 0; i < 4; i++) await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: /not published/ })).toHaveCount(0);
  await saved(page);
});

test('an import finds links by code, e-mail and two columns, within the file too; doubtful values are left, any row can be given', async ({
  page,
}) => {
  await signIn(page, 'Maud Alder');
  await test.step('a table is made by hand', async () => {
    await page.goto('/design/tables');
    await page.getByRole('button', { name: 'New table' }).click();
    await page.getByLabel('What is it called?').fill('Freezers');
    await page.getByLabel('Label of column 2').fill('Code');
    await page.getByRole('button', { name: 'Add a column' }).click();
    await page.keyboard.type('Stands in');
    await pickOne(page, 'Type of column 3', 'Link to a row');
    await expect(page.getByRole('button', { name: 'Create the table' })).toBeDisabled();
    await pickOne(page, 'Table that column 3 links to', 'of Stores');
    await page.getByRole('button', { name: 'Create the table' }).click();
    await expect(page).toHaveURL(/\/design\/tables\/freezers$/);
  });
  await test.step('its rows come in, called by their names', async () => {
    await page.goto('/design/tables/import?into=freezers');
    await page
      .getByLabel('File to import')
      .setInputFiles(csv('f.csv', ['Name,Code', 'North chest,FR-10', 'South chest,FR-11', 'Upright,UP-1']));
    await page.getByRole('button', { name: 'Import 3 rows' }).click();
    await expect(page.getByRole('status').filter({ hasText: '3 rows imported into Freezers' })).toBeVisible();
  });
  await test.step('checks name them by code, people by e-mail, and each other', async () => {
    await page.goto('/design/tables/import');
    const lines = ['Check,Freezer,By,After', 'C1,fr-10,ida@marrowfen.example,', 'C2,UP-1,tom@marrowfen.example,C3', 'C3,FR-12,someone@else.example,C1', 'C4,FR-11,nell@marrowfen.example,C1']; // prettier-ignore
    await page.getByLabel('File to import').setInputFiles(csv('checks.csv', lines));
    await expect(page.getByLabel('Table Freezer links to')).toHaveText('of Freezers');
    await expect(page.getByLabel('Column that Freezer is matched by')).toHaveText('Code (75 % match)');
    await expect(page.getByLabel('Column that By is matched by')).toHaveText('E-mail (75 % match)');
    await expect(page.getByLabel('Table After links to')).toHaveText('in this file');
    await expect(page.getByRole('button', { name: 'Take the nearest for 0' }).first()).toBeDisabled();
    await expect(page.getByText('1 is doubtful and left to you.')).toBeVisible();
    await pickOne(page, 'What “FR-12” means', 'another row…');
    await page.getByRole('combobox', { name: 'Row of Freezers that “FR-12” means' }).fill('upr');
    await page.getByRole('option', { name: 'Upright' }).click();
    await expect(page.getByLabel('What “FR-12” means')).toHaveText('Upright');
    await page.getByRole('button', { name: 'Leave all empty' }).last().click();
    await page.getByRole('button', { name: 'Import 4 rows' }).click();
    await page.getByRole('status').getByRole('link', { name: 'Checks' }).click();
    await expect(page.getByRole('row', { name: /C2/ })).toContainText('Upright');
    await expect(page.getByRole('row', { name: /C2/ })).toContainText('C3');
  });
});

test('removing a field says how many records hold it, and undo survives the Cascades and back', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake?field=remark');
  await pressField(page, 'quantity_g');
  await page.getByRole('button', { name: 'Remove this field' }).click();
  await expect(page.getByText(/\d+ records have a value in it/)).toBeVisible();
  await page.getByRole('button', { name: 'Remove it anyway' }).click();
  await expect(page.locator('[data-row="quantity_g"]')).toHaveCount(0);
  await page.getByRole('link', { name: 'Cascades' }).click();
  await expect(page.getByRole('heading', { name: 'Names that differ only in spelling' })).toBeVisible();
  await page.getByRole('link', { name: 'Lot intake' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.locator('[data-row="quantity_g"]')).toHaveCount(1);
  await saved(page);
});

test('records are called by what the form names; a list row opens as a whole, a child leads back, a backfill begins with what is new', async ({
  page,
}) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/bench_task');
  await page.getByRole('button', { name: 'Form settings' }).click();
  const settings = page.getByRole('region', { name: 'Wiring of the selected field' });
  await expect(settings).toContainText('Its records are called by Task');
  await pickWord(settings, 'Called by', 'a text of several fields…');
  await expect(page.getByLabel('Label of the field', { exact: true })).toHaveValue('Name of the record');
  await expect(formulaWord(settings).first()).toContainText('TEMPLATE(');
  await page.getByRole('button', { name: 'Publish…' }).click();
  await expect(page.getByRole('dialog')).toContainText('what its records are called by');
  // the press that publishes has the focus
  await page.keyboard.press('Enter');
  await expect(page.getByText('Version 2 is published.')).toBeVisible();
  await page.getByRole('link', { name: 'Give them what is new' }).click();
  await expect(page.getByRole('checkbox', { name: /^Name of the record/ })).toBeChecked();
  await page.goto('/entry/lot_intake');
  await page.getByRole('row').nth(2).getByRole('cell').nth(2).click();
  await expect(page).toHaveURL(/\/entry\/lot_intake\/\d+$/);
});

test('Ctrl+K goes to a field, F2 to its wiring, J and K from field to field; the focus alone selects nothing', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake');
  const label = page.getByLabel('Label of the field', { exact: true });
  await expect(label).toHaveValue('Lot code');
  await page.keyboard.press('Control+k');
  await page.keyboard.type('germ');
  await expect(page.getByRole('option').first()).toContainText('Germination days');
  await page.keyboard.press('Enter');
  await expect(label).toHaveValue('Germination days');
  await expect(control(page, 'germination_days')).toBeFocused();
  await page.keyboard.press('Tab');
  await page.keyboard.press('Tab');
  await expect(label, 'the keys moved on, what is looked at did not').toHaveValue('Germination days');
  await control(page, 'storage_c').focus();
  await page.keyboard.press('F2');
  await expect(label).toHaveValue('Storage, °C');
  await expect(wiringOf(page).getByRole('button', { name: /^How it fills/ })).toBeFocused();
  await page.keyboard.press('j');
  await expect(label).toHaveValue('Germination days');
  await page.keyboard.press('k');
  await expect(label).toHaveValue('Storage, °C');
  // typed and entered before the list has looked, the first that is called so is meant
  await page.keyboard.press('Control+k');
  await expect(page.getByRole('combobox', { name: 'Go to' })).toBeFocused();
  await page.getByRole('combobox', { name: 'Go to' }).evaluate((input: HTMLInputElement) => {
    input.value = 'germ';
    input.dispatchEvent(new Event('input', { bubbles: true }));
    input.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', code: 'Enter', bubbles: true, cancelable: true }));
  });
  await expect(label).toHaveValue('Germination days');
  await page.goto('/design/forms/lot_intake');
  await expect(label).toBeVisible();
  await page.locator('main .skip').focus();
  await page.keyboard.press('Enter');
  await expect(control(page, 'code')).toBeFocused();
});

test('the guide is searched by what one wants to do, and ? opens the page of the screen', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/guide');
  await page.getByLabel('Find a page or a function').fill('dependent list');
  await page.getByRole('link', { name: 'Make a cascade' }).click();
  await expect(page.getByRole('heading', { name: 'Make a cascade' })).toBeVisible();
  await expect(page.getByRole('img', { name: 'Make a cascade' })).toHaveJSProperty('complete', true);
  await page.getByRole('link', { name: 'See it in Lot intake' }).click();
  await expect(page.getByLabel('Label of the field', { exact: true })).toHaveValue('Plot');
  await page.goBack();
  await page.goBack();
  await expect(page.getByLabel('Find a page or a function')).toHaveValue('dependent list');
  await page.goto('/design/forms/lot_intake/backfill');
  await expect(page.getByRole('heading', { name: 'Backfill', level: 1 })).toBeVisible();
  await page.keyboard.press('?');
  const help = page.getByRole('complementary', { name: 'Help' }).or(page.getByRole('dialog'));
  await expect(help).toContainText('Undo it all');
  // where one types, a question mark is a question mark; F1 helps there too
  await page.goto('/design/forms/lot_intake');
  await control(page, 'quantity_g').click();
  await page.keyboard.press('F1');
  await expect(help).toBeVisible();
});

test('a field reacts while one types, and what is typed stays as it is', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake?field=seeds');
  await control(page, 'quantity_g').click();
  await page.keyboard.type('100');
  await control(page, 'tsw_g').click();
  await page.keyboard.type('2');
  // nobody has left the field
  await expect(control(page, 'seeds')).toHaveValue(/^50[.,\s]?000/);
  await expect(control(page, 'tsw_g')).toBeFocused();
  await expect(control(page, 'tsw_g')).toHaveValue('2');
  await expect(field(page, 'seeds')).toContainText('calculated');
});
