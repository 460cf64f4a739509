import type { Page } from '@playwright/test';
import { expect, test } from './workspace';
import { control, formulaText, signIn, signInAtHome, tabTo, wiringOf } from './helpers';

/* How much it takes: the presses of the mouse and of keys that common work needs are counted, and kept down. */

/** Presses of the mouse and of single keys; typing a word is one. */
class Hand {
  count = 0;
  constructor(private readonly page: Page) {}
  async press(name: string | RegExp, role: 'button' | 'option' | 'combobox' = 'button'): Promise<void> {
    this.count++;
    await this.page.getByRole(role, { name }).first().click();
  }
  async type(text: string): Promise<void> {
    this.count++;
    await this.page.keyboard.type(text);
  }
  async key(name: string, times = 1): Promise<void> {
    for (let i = 0; i < times; i++) {
      this.count++;
      await this.page.keyboard.press(name);
    }
  }
  /** Goes anywhere by its name. */
  async goTo(what: string, first: RegExp): Promise<void> {
    await this.key('Control+k');
    await expect(this.page.getByRole('combobox', { name: 'Go to' })).toBeFocused();
    await this.type(what);
    await expect(this.page.getByRole('option').first()).toHaveText(first);
    await this.key('Enter');
  }
  taken(what: string): void {
    console.log(`${what}: ${this.count} presses`);
    this.count = 0;
  }
}
async function newForm(page: Page, label: string): Promise<void> {
  await page.goto('/design/forms?new=1');
  await page.getByLabel('What is it called?').fill(label);
  await page.keyboard.press('Enter');
  await expect(page.getByText('This form has no fields yet.')).toBeVisible();
}

test('a cascade of four levels, a narrowing with or, a prefill and a check, by the mouse', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await newForm(page, 'Store check');
  const hand = new Hand(page);
  const label = page.getByLabel('Label of the field', { exact: true });
  const add = async (name: string): Promise<void> => {
    await hand.press('+ field');
    await hand.type(name);
    await hand.key('Enter');
    await expect(label).toHaveValue(name);
  };
  await test.step('store › shelf › box › lot', async () => {
    await add('Store');
    await add('Shelf');
    await hand.press('+ store is the entry’s Store');
    await add('Box');
    await hand.press('+ shelf is the entry’s Shelf');
    await add('Lot');
    await hand.press('+ box is the entry’s Box');
    await expect(page.getByRole('button', { name: 'no problems' })).toBeVisible();
    expect(hand.count).toBeLessThanOrEqual(15);
    hand.taken('a cascade of four levels');
  });
  await test.step('only boxes that are free, or that hold more than 100', async () => {
    await page.locator('[data-row="box"] .name').click();
    const wiring = wiringOf(page);
    for (const [column, operator, value] of [
      ['free', 'is more than', '0'],
      ['capacity', 'is more than', '100'],
    ] as const) {
      // prettier-ignore
      if (column === 'free') await hand.press(/^Add a condition on/);
      else await hand.press('Add a group of conditions');
      await hand.press(column, 'option');
      await page.keyboard.press('Escape');
      await wiring.getByRole('button', { name: /^Compared/ }).last().click(); // prettier-ignore
      hand.count++;
      await hand.press(operator, 'option');
      await hand.press('a fixed value…', 'option');
      await hand.type(value);
      await hand.key('Enter');
    }
    await expect(wiring).toContainText('free is more than 0');
    await expect(wiring).toContainText('any of: capacity is more than 100');
    expect(hand.count).toBeLessThanOrEqual(14);
    hand.taken('two conditions, one in a group');
  });
  await test.step('a prefill', async () => {
    await hand.press('+ field');
    await hand.type('Capacity');
    await hand.press('Type of the new field', 'combobox');
    await hand.press('Number', 'option');
    await hand.press('Add');
    await hand.press(/^How it fills/);
    await hand.press(/^is prefilled with/, 'option');
    await hand.press('Box’s capacity');
    await expect(wiringOf(page)).toContainText('Capacity is prefilled with box.capacity');
    expect(hand.count).toBeLessThanOrEqual(8);
    hand.taken('a field with a prefill');
  });
  await test.step('a check', async () => {
    await hand.press('+ check');
    await formulaText(page).fill('capacity < 1');
    hand.count++;
    await hand.key('Control+Enter');
    expect(hand.count).toBeLessThanOrEqual(3);
    hand.taken('a check');
  });
});

test('a whole form is built by keyboard alone, published, and a record is entered in it', async ({ page }) => {
  await signInAtHome(page, 'Maud Alder');
  const hand = new Hand(page);
  const label = page.getByLabel('Label of the field', { exact: true });
  await hand.goTo('new form', /^New form/);
  await expect(page.getByLabel('What is it called?')).toBeFocused();
  await hand.type('Visit');
  await hand.key('Enter');
  await expect(page.getByText('This form has no fields yet.')).toBeVisible();
  const add = async (name: string): Promise<void> => {
    await hand.goTo('add a field', /^Add a field/);
    await expect(page.getByLabel('Label of the new field')).toBeFocused();
    await hand.type(name);
    await hand.key('Enter');
    await expect(label).toHaveValue(name);
  };
  const focusWord = (name: RegExp): Promise<void> => tabTo(page, name, 40, (key) => hand.key(key));
  await add('Region');
  await add('Site');
  await hand.key('F2');
  await focusWord(/^\+ region is the entry’s Region/);
  await hand.key('Enter');
  await expect(wiringOf(page)).toContainText('Offered when region is the entry’s Region');
  await add('Seen');
  await hand.key('F2');
  await focusWord(/^How it fills/);
  await hand.key('Enter');
  await hand.key('ArrowDown');
  await hand.key('Enter');
  await expect(wiringOf(page)).toContainText('Seen starts with the default');
  // at once: the editor may still be on its way
  await page.keyboard.type('"looked at"');
  await hand.key('Control+Enter');
  await expect(page.getByRole('button', { name: 'no problems' })).toBeVisible();
  await hand.key('Control+Shift+P');
  await expect(page.getByRole('button', { name: 'Publish', exact: true })).toBeFocused();
  await hand.key('Enter');
  await expect(page.getByText('Version 1 is published.')).toBeVisible();
  hand.taken('a form of three fields by keyboard alone');
  await page.keyboard.press('Escape');
  await hand.goTo('visit new', /Visit.*new entry/);
  await expect(control(page, 'region')).toBeFocused();
  await hand.type('north');
  await hand.key('Enter');
  await expect(control(page, 'site')).toBeFocused();
  await hand.key('ArrowDown');
  await expect(page.getByRole('option').first()).toBeVisible();
  await hand.key('Enter');
  await expect(control(page, 'site')).not.toHaveValue('');
  await hand.key('Control+s');
  await expect(page).toHaveURL(/\/entry\/visit$/);
  hand.taken('a record of it');
});

test('a standard lot takes few keys, and the next of the same place fewer: what is known is passed over', async ({ page }) => {
  await signIn(page, 'Ida');
  await page.goto('/entry/lot_intake/new');
  let keys = 0;
  const here = (): Promise<string | undefined> =>
    page.evaluate(() => document.activeElement?.closest<HTMLElement>('[data-field]')?.dataset.field);
  /** Enter leads on: it takes what is offered first and goes to the next field that needs somebody. */
  const enter = async (): Promise<void> => {
    const from = await here();
    keys++;
    await page.keyboard.press('Enter');
    await expect.poll(here).not.toBe(from);
  };
  /** What a clerk has on the paper is typed where the keys come by; of a choice until it is offered first. */
  const lot = async (paper: Readonly<Record<string, { text: string; choice?: RegExp }>>): Promise<number> => {
    keys = 0;
    await expect.poll(here).toBe('family');
    const left = new Map(Object.entries(paper));
    for (let stops = 0; stops < 20; stops++) {
      const given = left.get((await here()) ?? '');
      if (given) {
        left.delete((await here())!);
        keys += given.text.length;
        await page.keyboard.type(given.text);
        if (given.choice) await expect(page.getByRole('option').first()).toHaveText(given.choice);
      }
      if (!left.size) break;
      await enter();
    }
    expect([...left.keys()], 'the keys came by all of them').toEqual([]);
    const saved = page.getByText(/Record \d+ is saved/);
    const before = (await saved.count()) ? await saved.textContent() : null;
    keys++;
    await page.keyboard.press('Control+Enter');
    await expect.poll(async () => ((await saved.count()) ? await saved.textContent() : null)).not.toBe(before);
    await expect(saved).toBeVisible();
    return keys;
  };
  const first = await lot({
    species: { text: 'robur', choice: /Quercus robur/ },
    region: { text: 'nor', choice: /North Marrow/ },
    site: { text: 'bit', choice: /Bittern Reach/ },
    quantity_g: { text: '12.5' },
    tsw_g: { text: '3.1' },
    purity: { text: '2' },
  });
  const second = await lot({ species: { text: 'canin', choice: /Rosa canina/ }, quantity_g: { text: '3' } });
  console.log(`the standard lot of 27 fields: ${first} keys; the next of the same site: ${second} keys`);
  expect(first).toBeLessThanOrEqual(30);
  expect(second).toBeLessThanOrEqual(13);

  await test.step('and it is all there', async () => {
    await page.getByText(/Record \d+ is saved/).getByRole('link').click(); // prettier-ignore
    await expect(control(page, 'family')).toHaveValue('Rosaceae');
    await expect(control(page, 'site')).toHaveValue('Bittern Reach');
    await expect(control(page, 'storage_c')).not.toHaveValue('');
    await expect(control(page, 'quantity_g')).toHaveValue(/^3/);
  });
});
