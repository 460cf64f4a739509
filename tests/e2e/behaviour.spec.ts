import type { Page } from '@playwright/test';
import { expect, test } from './workspace';
import {
  choose,
  control,
  field,
  formulaText,
  formulaWord,
  lotAt,
  pickWord,
  row,
  signIn,
  signInHttp,
  tabTo,
  tabToField,
  wiringOf,
} from './helpers';

/* What a form shows, asks, refuses and says by condition; and rules. */

const saved = (page: Page): Promise<void> => expect(page.getByText('saved', { exact: true })).toBeVisible();
const rulePanel = (page: Page) => page.getByRole('region', { name: /^Rule|Large|^Protected/ });

test('a rule is built, tried and explained: it shows, requires, says and sets, and names itself in the why and the trace', async ({
  page,
}) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake/rules');
  await expect(page.getByText('3, they act in this order')).toBeVisible();
  await page.getByRole('button', { name: '+ rule' }).click();
  const panel = rulePanel(page);
  await page.getByLabel('Name of the rule').fill('Large lots');
  await page.keyboard.press('Enter');
  await test.step('if: sentences over the entry', async () => {
    await panel.getByRole('button', { name: /^Add a condition on/ }).click();
    await page.getByRole('option', { name: 'quantity, g', exact: true }).click();
    await pickWord(panel, 'Compared', 'is more than');
    await page.getByRole('option', { name: 'a fixed value…' }).click();
    await panel.getByLabel('Fixed value').fill('500');
    await page.keyboard.press('Enter');
    await expect(panel).toContainText('quantity, g is more than 500');
  });
  await test.step('then: require, say; set, which asks for its moment', async () => {
    const add = panel.getByRole('button', { name: '+ effect' }).first();
    await add.click();
    await pickWord(panel, 'Effect', /^require/);
    await pickWord(panel, 'Of', 'Purity');
    await add.click();
    await panel
      .getByRole('button', { name: /^Effect/ })
      .nth(1)
      .click();
    await page.getByRole('option', { name: /^say/ }).click();
    await panel.getByLabel('Message', { exact: true }).fill('{quantity_g} g is much');
    await page.keyboard.press('Enter');
    await pickWord(panel, 'At', 'Quantity, g');
    await add.click();
    await panel
      .getByRole('button', { name: /^Effect/ })
      .nth(2)
      .click();
    await page.getByRole('option', { name: /^set/ }).click();
    await formulaText(page).fill('"large"');
    await page.keyboard.press('Control+Enter');
    await panel.getByRole('button', { name: /^Field/ }).click();
    await page.getByRole('option', { name: 'Remark', exact: true }).click();
    await expect(panel.getByText('never acts: say when')).toBeVisible();
    await panel.getByRole('button', { name: 'One more moment' }).click();
    await page.getByRole('option', { name: 'Quantity, g changes', exact: true }).click();
    await expect(panel.getByText('never acts')).toHaveCount(0);
    await expect(page.getByRole('listitem').filter({ hasText: 'Large lots' }).first()).toContainText('require Purity');
  });
  await saved(page);
  await test.step('tried: on, off, and why', async () => {
    await page.goto('/design/forms/lot_intake?field=purity');
    await expect(wiringOf(page)).toContainText('Required also by the rule “Large lots”');
    // the remark is shown where something is said of the purity
    await choose(page, 'purity', 'Some chaff');
    await control(page, 'quantity_g').fill('501');
    await control(page, 'quantity_g').blur();
    await expect(field(page, 'quantity_g')).toContainText('501 g is much');
    await expect(field(page, 'purity').locator('.star')).toBeVisible();
    await expect(page.getByText('acted:')).toBeVisible();
    await expect(control(page, 'remark')).toHaveValue('large');
    await field(page, 'remark')
      .getByRole('button', { name: /by the rule “Large lots”. Why/ })
      .click();
    await expect(page.getByRole('complementary', { name: /^Why Remark/ })).toContainText('The rule “Large lots” set or cleared it');
    await control(page, 'quantity_g').fill('3');
    await control(page, 'quantity_g').blur();
    await expect(field(page, 'quantity_g')).toContainText('Under 5 g: keep it whole.');
    await expect(field(page, 'purity').locator('.star')).toHaveCount(0);
  });
  await page
    .getByRole('button', { name: /^Rules/ })
    .or(page.getByRole('link', { name: /^Rules/ }))
    .first()
    .click();
  await page.getByRole('button', { name: /^Large lots: If/ }).click();
  await rulePanel(page).getByRole('button', { name: 'Duplicate' }).click();
  await expect(page.getByLabel('Name of the rule')).toHaveValue('Large lots, copy');
  await expect(page.getByText('Remark is also set by Large lots').first()).toBeVisible();
  await page.getByLabel('Find a rule').fill('nothing like it');
  await expect(page.getByText('No rule speaks of')).toBeVisible();
  await page.getByLabel('Find a rule').fill('');
  await rulePanel(page).getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page.getByText('4, they act in this order')).toBeVisible();
  await page.getByRole('button', { name: /^Large lots: drag/ }).focus();
  await page.keyboard.press('Alt+ArrowUp');
  await expect(page.getByRole('button', { name: /drag, or Alt/ }).nth(2)).toHaveText('3');
  await expect(page.locator('.item').nth(2)).toContainText('Large lots');
  for (let i = 0; i < 3; i++) await page.getByRole('button', { name: 'Undo' }).click();
  await saved(page);
});

test('one rule in two forms: put there by a press, what does not match is a problem there, what is changed is made the same', async ({
  page,
}) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake/rules?rule=small');
  const panel = page.getByRole('region', { name: 'Small lots' });
  await pickWord(panel, 'Use it in', 'Germination test');
  await expect(page.getByText('It is in the draft of Germination test')).toBeVisible();
  await expect(panel).toContainText('Also in Germination test.');
  await page.getByLabel('Note').fill('Agreed with the store.');
  await page.keyboard.press('Enter');
  await expect(panel).toContainText('where it says something else');
  await panel.getByRole('button', { name: 'Make it the same there' }).click();
  await expect(panel).toContainText('Also in Germination test.');
  await saved(page);
  await panel.getByRole('link', { name: 'Germination test' }).click();
  await expect(page).toHaveURL(/germination_test\/rules/);
  await expect(page.getByLabel('Note')).toHaveValue('Agreed with the store.');
  await expect(page.getByText('It speaks of “quantity_g”, but this form has no such field.').first()).toBeVisible();
  await page.getByRole('region', { name: 'Small lots' }).getByRole('button', { name: 'Remove', exact: true }).click();
  await saved(page);
  await page.goto('/design/forms/lot_intake/rules?rule=small');
  await expect(page.getByRole('region', { name: 'Small lots' })).not.toContainText('Also in');
});

test('a section is hidden, required and checked as a whole; both branches stand in one sentence and are exchanged by a press', async ({
  page,
}) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake');
  await page.locator('[data-section="amount"] .head').hover();
  await page.getByRole('button', { name: 'Settings of section Amount' }).click();
  const settings = page.locator('[data-section="amount"] .settings');
  await pickWord(settings, 'Shown', 'when…');
  await formulaText(page).fill('purity <> "clean" AND status = "registered"');
  await page.keyboard.press('Control+Enter');
  await expect(
    page
      .getByText(/wait for each other/)
      .or(page.getByRole('button', { name: /1 problem/ }))
      .first(),
    'the section holds what it asks',
  ).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await pickWord(settings, 'Shown', 'when…');
  await formulaText(page).fill('status = "registered"');
  await page.keyboard.press('Control+Enter');
  await expect(settings).toContainText('otherwise hidden and its values as each field says');
  await settings.getByRole('button', { name: 'Shown: exchange when and otherwise' }).click();
  await expect(settings).toContainText('NOT(status = "registered")');
  await expect(row(page, 'quantity_g')).toContainText('hidden now');
  await row(page, 'quantity_g')
    .getByRole('button', { name: /hidden now/ })
    .click();
  await expect(page.getByRole('complementary', { name: /^Why/ })).toContainText('of its section Amount, which hides it');
  await settings.getByRole('button', { name: 'Shown: exchange when and otherwise' }).click();
  await pickWord(settings, 'Required', 'always');
  await expect(field(page, 'tsw_g').locator('.star')).toBeVisible();
  await settings.getByRole('button', { name: '+ check' }).click();
  await formulaText(page).fill('quantity_g > 100');
  await page.keyboard.press('Control+Enter');
  await settings.getByLabel('Message', { exact: true }).fill('{quantity_g} g in one box');
  await page.keyboard.press('Enter');
  await control(page, 'quantity_g').fill('120');
  await control(page, 'quantity_g').blur();
  await expect(page.locator('[data-section="amount"]').getByText('120 g in one box')).toBeVisible();
  for (let i = 0; i < 6; i++) await page.getByRole('button', { name: 'Undo' }).click();
  await saved(page);
});

test('label, hint and the text in an empty field hold values, and follow as one types', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake?field=tsw_g');
  const wiring = wiringOf(page);
  await wiring.getByLabel('Label', { exact: true }).fill('Weight of 1000 seeds of {species.name}');
  await page.keyboard.press('Enter');
  await wiring.getByLabel('In the empty field', { exact: true }).fill('in grams');
  await page.keyboard.press('Enter');
  await wiring.getByLabel('Hint', { exact: true }).fill('Weigh {nothing}');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/There is no field or name “nothing” here/)).toBeVisible();
  await wiring.getByLabel('Hint', { exact: true }).fill('Weigh twice');
  await page.keyboard.press('Enter');
  await wiring.getByRole('button', { name: 'Hint: by a formula' }).click();
  await formulaText(page).fill('IF(quantity_g < 5, "Weigh them all", "Weigh 100 seeds")');
  await page.keyboard.press('Control+Enter');
  await expect(formulaWord(wiring).last()).toContainText('Weigh them all');
  await choose(page, 'species', 'Quercus robur');
  await expect(field(page, 'tsw_g')).toContainText('Weight of 1000 seeds of Quercus robur');
  await control(page, 'quantity_g').fill('2');
  await expect(field(page, 'tsw_g')).toContainText('Weigh them all');
  await expect(control(page, 'tsw_g')).toHaveAttribute('placeholder', 'in grams');
  for (let i = 0; i < 5; i++) await page.getByRole('button', { name: 'Undo' }).click();
  await saved(page);
});

test('what rules require is required by the server; a warning is saved over, and the history says so', async ({ page, request }) => {
  await signInHttp(request, 'ida@marrowfen.example');
  const begun = (await (await request.get('/api/forms/lot_intake/entry')).json()) as { version: number };
  await signIn(page, 'Ida Fenn');
  await page.goto('/entry/lot_intake/new');
  await choose(page, 'species', 'Mentha pulegium');
  await expect(field(page, 'species')).toContainText('Mentha pulegium is protected: a permit is kept with the lot.');
  await expect(field(page, 'permit')).toBeVisible();
  await page.keyboard.press('Control+s');
  await expect(page.getByText('Permit is required.').first()).toBeVisible();
  // by hand, over HTTP, it is refused as well
  const species = await control(page, 'species').inputValue();
  expect(species).toBe('Mentha pulegium');
  const rows = (await (
    await request.post('/api/forms/lot_intake/wants', {
      data: {
        version: begun.version,
        wants: [{ kind: 'page', field: 'species', params: [], open: [0], search: 'Mentha pulegium', offset: 0, limit: 5 }],
      },
    })
  ).json()) as { answer: { rows?: { id: number }[] } }[];
  const id = rows[0]?.answer.rows?.[0]?.id;
  if (id !== undefined) {
    const refused = await request.post('/api/forms/lot_intake/records', {
      data: {
        version: begun.version,
        edits: [{ kind: 'set', field: 'species', value: id }],
        revision: null,
        request: crypto.randomUUID(),
        opened: { parent: null, url: {} },
      },
    });
    expect(refused.status()).toBe(422);
    expect(JSON.stringify(await refused.json())).toContain('Permit is required.');
  }
  const lot = await lotAt(request, 'registered');
  await page.goto(`/entry/lot_intake/${lot}`);
  await control(page, 'quantity_g').fill('4');
  await control(page, 'quantity_g').blur();
  await expect(field(page, 'quantity_g')).toContainText('Under 5 g: keep it whole.');
  await page.keyboard.press('Control+s');
  await expect(page).toHaveURL(/\/entry\/lot_intake$/);
  await signInHttp(request, 'maud@marrowfen.example');
  const history = (await (await request.get(`/api/forms/lot_intake/records/${lot}/history`)).json()) as {
    reason: string | null;
    by: string;
  }[];
  expect(history[0]).toMatchObject({ by: 'Ida Fenn', reason: 'Saved although warned: Under 5 g: keep it whole.' });
});

test('pages: a section gets a page of its own; at entry pages are a path with what is open, Enter goes on to the next, hidden ones are none', async ({
  page,
}) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/germination_test');
  const sections = page.locator('section[data-section]');
  await expect(sections.first()).toBeVisible();
  const last = sections.last();
  const id = await last.getAttribute('data-section');
  await last.locator('.head').hover();
  await last.getByRole('button', { name: /^Settings of section/ }).click();
  await pickWord(last, 'Page', 'a new page');
  await page.getByLabel('Label of page 2').fill('Result');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Settings of page Result' }).click();
  const settings = page.locator('.live .settings').filter({ hasText: 'All its fields are required' }).first();
  await pickWord(settings, 'Shown', 'when…');
  await formulaText(page).fill('NOT(ISBLANK(genus))');
  await page.keyboard.press('Control+Enter');
  await expect(page.locator(`[data-section="${id}"]`)).toContainText('hidden now');
  await saved(page);
  await page.getByRole('button', { name: 'Publish…' }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Publish/ })
    .click();
  await expect(page.getByText(/^Version 2 is published/)).toBeVisible();

  await page.goto('/entry/germination_test/new');
  await expect(control(page, 'lot')).toBeVisible();
  await expect(page.getByRole('navigation', { name: 'Pages' }), 'one page is no path').toHaveCount(0);
  await choose(page, 'genus', 'Achillea');
  const path = page.getByRole('navigation', { name: 'Pages' });
  await expect(path.getByRole('button')).toHaveCount(2);
  await expect(path.getByRole('button', { name: /Result/ })).not.toHaveAttribute('aria-current', 'step');
  await path.getByRole('button', { name: /Result/ }).click();
  await expect(path.getByRole('button', { name: /Result/ })).toHaveAttribute('aria-current', 'step');
  await expect(control(page, 'lot')).toBeHidden();
  await page.getByRole('button', { name: /^‹/ }).click();
  await expect(control(page, 'lot')).toBeVisible();
  // the keys go on to the next page by themselves
  for (let i = 0; i < 14 && (await control(page, 'lot').isVisible()); i++) await page.keyboard.press('Enter');
  await expect(path.getByRole('button', { name: /Result/ })).toHaveAttribute('aria-current', 'step');
});

test('layout: running text with values, a section that folds and stays so, a width, a date as the field says; a lot on one screen', async ({
  page,
}) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/bench_task');
  const where = page.locator('section[data-section="where"]');
  await where.locator('.head').hover();
  await where.getByRole('button', { name: /^Settings of section/ }).click();
  await pickWord(where, 'Folding', 'stands folded until it is opened');
  await where.getByRole('textbox', { name: 'Running text' }).fill('Weather at {site.name}.');
  await page.keyboard.press('Tab');
  await expect(where).toContainText('Weather at');
  await row(page, 'bench').locator('label').first().click();
  await pickWord(wiringOf(page), 'Width', 'as wide as there is room');
  await row(page, 'day').locator('label').first().click();
  await pickWord(wiringOf(page), 'Shown', 'as 2026-03-01');
  await expect(control(page, 'day')).toHaveValue(/^\d{4}-\d\d-\d\d$/);
  await saved(page);
  await page.getByRole('button', { name: 'Publish…' }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Publish/ })
    .click();
  await expect(page.getByText(/^Version 2 is published/)).toBeVisible();

  await page.goto('/entry/bench_task/new');
  await expect(page.getByText(/^Work ordered for \d+ \w+ \d{4}\.$/)).toBeVisible();
  await expect(control(page, 'day')).toHaveValue(/^\d{4}-\d\d-\d\d$/);
  const wide = await control(page, 'bench').boundingBox();
  expect(wide!.width).toBeGreaterThan((await control(page, 'task').boundingBox())!.width);
  const head = page.getByRole('button', { name: 'Seed from' });
  await expect(head).toHaveAttribute('aria-expanded', 'false');
  await expect(control(page, 'region')).toBeHidden();
  await test.step('Enter passes what is folded away, Tab stops at its heading', async () => {
    await control(page, 'bench').click();
    await page.keyboard.press('Enter');
    await expect(control(page, 'tool')).toBeFocused();
    await control(page, 'bench').click();
    await page.keyboard.press('Tab');
    await expect(head).toBeFocused();
    await page.keyboard.press('Enter');
    await expect(control(page, 'region')).toBeVisible();
  });
  await test.step('as it was left it stands the next time', async () => {
    await page.getByRole('button', { name: /^With$/ }).click();
    await expect(control(page, 'tool')).toBeHidden();
    await page.goto('/entry/bench_task/new');
    await expect(control(page, 'region')).toBeVisible();
    await expect(control(page, 'tool')).toBeHidden();
  });
  await test.step('what was saved shows its paragraph, and its date no more', async () => {
    await control(page, 'task').fill('sow two trays');
    const answer = page.waitForResponse((r) => r.request().method() === 'POST' && r.url().endsWith('/bench_task/records'));
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    const { id } = (await (await answer).json()) as { id: number };
    await page.goto(`/entry/bench_task/${id}`);
    await expect(page.getByText(/^Work ordered for/).first()).toBeVisible();
    await expect(field(page, 'day')).toHaveCount(0);
  });
  await page.goto('/entry/lot_intake/new');
  await expect(control(page, 'family')).toBeFocused();
  const bar = await page.getByRole('button', { name: 'Save', exact: true }).boundingBox();
  for (const last of ['collected_on', 'accepted_name']) {
    const box = await field(page, last).boundingBox();
    expect(box!.y + box!.height, `${last} stands above the bar`).toBeLessThan(bar!.y);
  }
});

test('a rule over lines is built, tried and explained by keyboard alone', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  const keys = async (...names: string[]): Promise<void> => {
    for (const name of names) await page.keyboard.press(name);
  };
  const offered = (name: string | RegExp) => page.getByRole('option', { name, exact: true });
  /** goes to a word of the sentence, opens it, and takes what is typed for */
  const exchange = async (word: RegExp, to: string): Promise<void> => {
    await tabTo(page, word);
    await keys('Enter');
    await takes(to);
  };
  const takes = async (to: string): Promise<void> => {
    await expect(page.getByRole('option').first()).toBeVisible();
    await page.keyboard.type(to);
    await expect(page.getByRole('option').first()).toContainText(to, { ignoreCase: true });
    await keys('Enter');
  };
  await page.goto('/design/forms/seed_request/rules');
  await expect(page.getByText('3, they act in this order')).toBeVisible();
  await tabTo(page, /^\+ rule$/);
  await keys('Enter');
  await expect(page.getByLabel('Name of the rule')).toBeFocused();
  await page.keyboard.type('Heavy packets');
  await keys('Enter');
  const panel = page.getByRole('region', { name: 'Heavy packets' });
  await test.step('if: any of the lines', async () => {
    await exchange(/^Add a condition on/, 'packets');
    await takes('g each');
    await expect(offered('a fixed value…')).toBeVisible();
    // how it compares is said first
    await keys('Escape', 'Shift+Tab', 'Enter');
    await takes('is more');
    await expect(offered('a fixed value…')).toBeVisible();
    await keys('End', 'ArrowUp', 'Enter');
    await expect(panel.getByLabel('Fixed value')).toBeFocused();
    await page.keyboard.type('5');
    await keys('Enter');
    await expect(panel).toContainText(/packets, any of them:\s+g each\s+is more than\s+5/);
  });
  await test.step('then: it says', async () => {
    await tabTo(page, /^\+ effect$/);
    await keys('Enter');
    await exchange(/^Effect: show/, 'say');
    await tabTo(page, /^Message$/);
    await page.keyboard.type('Over 5 g in one packet');
    await keys('Enter');
    await exchange(/^At: /, 'Delivery');
    await expect(page.getByRole('option'), 'the list is closed').toHaveCount(0);
    await expect(panel.getByRole('button', { name: 'At: Delivery', exact: true })).toBeFocused();
    await expect(page.getByRole('listitem').filter({ hasText: 'Heavy packets' }).first()).toContainText('If any of Packets: its g each is more than 5, warn “Over 5 g in one packet”');
  }); // prettier-ignore
  await saved(page);
  await test.step('tried, and why', async () => {
    await keys('Control+k');
    await expect(page.getByRole('combobox', { name: 'Go to' })).toBeFocused();
    await page.keyboard.type('seed design');
    await expect(page.getByRole('option').first()).toContainText('Seed request');
    await keys('Enter');
    await expect(control(page, 'partner')).toBeVisible();
    await tabToField(page, 'packets.grams');
    await page.keyboard.type('6');
    await keys('Tab');
    await expect(field(page, 'method')).toContainText('Over 5 g in one packet');
    await tabToField(page, 'method');
    await keys('Alt+w');
    await expect(page.getByRole('complementary', { name: /^Why Delivery/ })).toContainText('Heavy packets');
  });
});
