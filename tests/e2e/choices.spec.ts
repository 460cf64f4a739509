import { expect, test } from './workspace';
import { choose, control, field, formulaText, grip, pressField, requestWithLines, row, rowOrder, signIn, signInHttp } from './helpers';

test('fields are put in another order by dragging', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/seed_request');
  const order = () => rowOrder(page);
  await expect(row(page, 'attention')).toBeVisible();
  await pressField(page, 'delivery_note');
  await grip(page, 'delivery_note').dragTo(row(page, 'attention'), { targetPosition: { x: 60, y: 4 } });
  await expect.poll(async () => (await order()).slice(2, 4)).toEqual(['delivery_note', 'attention']);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await order()).slice(2, 4)).toEqual(['attention', 'delivery_note']);
  await expect(page.getByRole('status').filter({ hasText: /^saved$/ })).toBeVisible();
});

test('a request fills itself: the only address taken, what belongs to it follows, working days counted', async ({ page }) => {
  await signIn(page, 'Tom Reed');
  await page.goto('/entry/seed_request/new');
  await expect(control(page, 'partner')).toBeFocused();
  await page.keyboard.type('Dunholm Primary');
  await page.keyboard.press('Enter');
  await expect(control(page, 'discount')).toHaveValue('50');
  await control(page, 'method').click();
  await page.getByRole('option', { name: 'Courier' }).click();
  await expect(control(page, 'fee')).toHaveValue('14.00');
  // the fee comes from the value map; nothing is asked for yet
  await expect(control(page, 'to_pay')).toHaveValue('14.00');
  await control(page, 'detail').click();
  await page.getByRole('option', { name: 'Genetics' }).click();
  await expect(control(page, 'purpose')).toHaveValue('Research');
  await expect(field(page, 'protected_ok').getByRole('radio', { name: 'no' })).toBeChecked();
  await page.evaluate(() => localStorage.clear());
});

test('a table too large to be sent is searched and paged by the server, and fills up through its levels', async ({ page }) => {
  await signIn(page, 'Ida Fenn');
  await page.goto('/entry/sheet_loan/new');
  await expect(control(page, 'cabinet')).toBeFocused();
  const requests: string[] = [];
  page.on('request', (r) => r.url().includes('/wants') && requests.push(r.postData() ?? ''));
  await control(page, 'sheet').click();
  await expect(page.getByText('more than 10,000 offered')).toBeVisible();
  await page.keyboard.type('0001234');
  await expect(page.getByRole('option')).toHaveText(['Sheet 0001234']);
  await page.keyboard.press('Enter');
  await expect(control(page, 'cabinet')).not.toHaveValue('');
  await expect(control(page, 'drawer')).not.toHaveValue('');
  await expect(control(page, 'folder')).not.toHaveValue('');
  await expect(field(page, 'folder')).toContainText('filled in from Sheet');
  await expect(control(page, 'year')).not.toHaveValue('');
  // whole rows of a large table are never asked for
  expect(requests.some((r) => r.includes('"kind":"table","table":"herbarium_sheets"'))).toBe(false);
  await field(page, 'sheet').locator('.origin').click();
  await expect(page.getByRole('complementary')).toContainText('20,000');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page).toHaveURL(/\/entry\/sheet_loan$/);
  await page.getByRole('row').nth(1).getByRole('link').click();
  await expect(control(page, 'sheet')).toHaveValue('Sheet 0001234');
});

test('a list from the server goes on to its end, and is asked for no more than it shows', async ({ page }) => {
  await signIn(page, 'Ida Fenn');
  await page.goto('/entry/sheet_loan/new');
  await expect(control(page, 'cabinet')).toBeFocused();
  const given: string[] = [];
  page.on('response', async (r) => {
    if (!r.url().endsWith('/wants')) return;
    const answered = (await r.json().catch(() => [])) as { answer: { kind: string; rows?: { name: string }[] } }[];
    for (const { answer } of answered)
      if (answer.kind === 'page') for (const row of answer.rows ?? []) if (!given.includes(row.name)) given.push(row.name);
  });
  const wants: string[] = [];
  page.on('request', (r) => {
    if (r.url().endsWith('/wants')) wants.push(...(r.postDataJSON() as { wants: object[] }).wants.map((w) => JSON.stringify(w)));
  });
  await control(page, 'sheet').click();
  await expect(page.getByText('more than 10,000 offered')).toBeVisible();
  // the list stands at its field, with the rows in it as well
  await expect(page.getByRole('option').first()).toBeVisible();
  const gap = async (): Promise<number> => {
    const [list, input] = [(await page.locator('.choices').boundingBox())!, (await control(page, 'sheet').boundingBox())!];
    return Math.min(Math.abs(list.y - input.y - input.height), Math.abs(list.y + list.height - input.y));
  };
  await expect.poll(gap).toBeLessThan(8);
  const asked: number[] = [];
  page.on('request', (r) => {
    for (const [, offset] of (r.postData() ?? '').matchAll(/"kind":"page"[^}]*"offset":(\d+)/g)) asked.push(Number(offset));
  });
  // only those in view are drawn: what is seen on the way is noted
  const seen = new Set<string>();
  const look = async (): Promise<void> => (await page.getByRole('option').allTextContents()).forEach((name) => seen.add(name.trim()));
  for (let i = 0; i < 80; i++) {
    await page.keyboard.press('PageDown');
    await page.waitForTimeout(40);
    await look();
  }
  await expect
    .poll(async () => {
      await look();
      return seen.size;
    })
    .toBeGreaterThan(450);
  // every row the server gave, in its order, none left out
  const names = [...seen].sort();
  expect(names).toEqual(given.slice(0, names.length));
  expect(asked).toEqual([...new Set(asked)].sort((a, b) => a - b));
  const sofar = asked.length;
  await page.waitForTimeout(1500);
  expect(asked.length).toBe(sofar);
  await page.keyboard.press('Enter');
  await expect(control(page, 'sheet')).not.toHaveValue('');
  // what is answered is known from then on: nothing is asked twice, the choice that was made neither
  await expect.poll(() => wants.some((w) => w.includes('"offered"'))).toBe(true);
  await page.waitForTimeout(1500);
  expect(wants.filter((w, i) => wants.indexOf(w) !== i)).toEqual([]);
});

test('the cascades of a form: counts, gaps, walking down, and spellings repaired in place', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake');
  await page.getByRole('link', { name: 'Cascades' }).click();
  await expect(page.getByRole('tab')).toHaveText(['Family › Genus › Species', 'Region › Site › Plot', 'Store › Shelf › Box']);
  await page.getByRole('tab', { name: 'Region › Site › Plot' }).click();
  const table = page.locator('.two .tree');
  await expect(table.getByRole('row', { name: /Outer Islands/ })).toContainText('none');
  await page.getByRole('button', { name: '1 of 8 above have none' }).click();
  await expect(table.getByRole('row')).toHaveCount(2);
  await page.getByRole('button', { name: '2 have no parent' }).click();
  await expect(table).toContainText('Old Decoy 1');
  // pressed in the picture, the tree opens along the way from the top, whatever stood there
  await page.locator('.picture text', { hasText: 'Keld Head' }).click({ force: true });
  await expect(table.getByRole('row', { name: /Keld Head 1/ })).toBeVisible();
  // while rows are on their way it does not say that there are none
  let answer = (): void => undefined;
  const asked = new Promise<void>((resolve) => (answer = resolve));
  await page.route(/cascades\/rows/, async (route) => {
    await asked;
    await route.continue();
  });
  await page.getByRole('button', { name: 'all Regions' }).click();
  await expect(table.getByRole('row', { name: /Keld Head/ })).toHaveCount(0);
  await expect(page.locator('.walk')).not.toContainText(/rows of Regions|Nothing here/);
  answer();
  await expect(page.locator('.walk')).toContainText('8 rows of Regions');
  await page.unrouteAll({ behavior: 'wait' });
  await table.getByRole('button', { name: 'Great Chase' }).click();
  await expect(table).toContainText('Acorn Ride');
  await table.getByRole('button', { name: 'Acorn Ride' }).click();
  await expect(table).toContainText('Acorn Ride 1');
  const spelled = page.locator('.spellings');
  await expect(spelled).toContainText('Wet-heath');
  await spelled.getByRole('button', { name: '“Wet heath”' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText(/“Wet heath” is written in \d+ rows of Plots/);
  await expect(dialog.getByRole('listitem').first()).toContainText(/now (wet heath |Wet-heath)/);
  await dialog.getByRole('button', { name: 'Correct the spelling' }).click();
  await expect(page.getByText('None found.')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('Undone.')).toBeVisible();
  await expect(spelled).toContainText('Wet-heath');
});

test('lines: choices, prefills and totals line by line, by keyboard; kept when the partner changes, stored with the record', async ({
  page,
}) => {
  await signIn(page, 'Tom Reed');
  await page.goto('/entry/seed_request/new');
  await expect(control(page, 'partner')).toBeFocused();
  await page.keyboard.type('Dunholm Primary');
  await page.keyboard.press('Enter');
  await control(page, 'detail').click();
  await page.getByRole('option', { name: 'Genetics' }).click();
  await control(page, 'method').click();
  await page
    .getByRole('option', { name: 'Collected' })
    .or(page.getByRole('option', { name: /collect/i }))
    .first()
    .click();
  const line = (key: string, n: number) => control(page, `packets.${key}#-${n}`);
  const fill = async (n: number, species: string, packets: string) => {
    await line('species', n).click();
    await page.keyboard.type(species);
    await page.keyboard.press('Enter');
    await line('packets', n).fill(packets);
    await line('packets', n).blur();
  };
  await fill(1, 'Rosa canina', '3');
  const price = Number(await line('price', 1).inputValue());
  expect(price).toBeGreaterThan(0);
  await expect(line('line_total', 1)).toHaveValue((3 * price).toFixed(2));
  await page.getByRole('button', { name: '+ line' }).click();
  await fill(2, 'Quercus robur', '2');
  const other = Number(await line('price', 2).inputValue());
  const subtotal = 3 * price + 2 * other;
  await expect(control(page, 'subtotal')).toHaveValue(subtotal.toFixed(2));
  // half price for a school; another partner clears the address but leaves the lines
  await expect(control(page, 'to_pay')).toHaveValue((subtotal / 2).toFixed(2));
  await control(page, 'partner').click();
  await page.keyboard.type('Bramley Walled');
  await page.keyboard.press('Enter');
  await expect(control(page, 'address')).toHaveValue('');
  await expect(line('species', 2)).toHaveValue('Quercus robur');
  await expect(control(page, 'to_pay')).toHaveValue(subtotal.toFixed(2));
  await control(page, 'address').click();
  await page.getByRole('option', { name: /glasshouse/ }).click();
  await expect(control(page, 'delivery_note')).toHaveValue('Leave with the porter');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page).toHaveURL(/\/entry\/seed_request$/);
  await page.getByRole('row').nth(1).getByRole('link').click();
  await expect(page.locator('[data-field^="packets.species#"] input').nth(1)).toHaveValue('Quercus robur');
  await expect(control(page, 'subtotal')).toHaveValue(subtotal.toFixed(2));
});

test('a block from a spreadsheet fills lines a few at a time; pressed meanwhile, Save takes all of it', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/entry/seed_request/new');
  for (const [key, text] of [['partner', 'Dunholm Primary'], ['detail', 'Genetics'], ['method', 'Post']] as const) await choose(page, key, text); // prettier-ignore
  await control(page, 'address').click();
  await page.getByRole('option').first().click();
  const names = ['Quercus robur', 'Fagus sylvatica'];
  const rows = [...Array.from({ length: 400 }, (_, i) => `${names[i % 2]}\t\t${1 + (i % 23)}`), 'No such species\t\tx'];
  const paste = (text: string) =>
    page.locator('[data-field^="packets.species"] input').first().evaluate((input, clip) => {
      const clipboardData = new DataTransfer();
      clipboardData.setData('text/plain', clip);
      input.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
      (document.activeElement as HTMLElement).blur();
      // within the same turn: nothing of it has been drawn yet
      [...document.querySelectorAll('button')].find((b) => b.textContent.trim() === 'Save')?.click();
    }, text); // prettier-ignore
  await paste(rows.join('\n'));
  // the last line is blank: it is not saved
  await expect(page).toHaveURL(/\/entry\/seed_request$/);
  await page.getByRole('row').nth(1).getByRole('link').click();
  await expect(page.locator('[data-lines="packets"] [data-line]')).toHaveCount(400);
  await expect(page.locator('[data-field^="packets.species#"] input').nth(1)).toHaveValue('Fagus sylvatica');
  // pasted over part of it: what was taken, and what not, is said
  await page.locator('[data-field^="packets.species#"] input').first().evaluate((input, clip) => {
    const clipboardData = new DataTransfer();
    clipboardData.setData('text/plain', clip);
    input.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
  }, 'Fagus sylvatica\t\t9\nNo such species\t\t2'); // prettier-ignore
  await expect(page.getByRole('status').filter({ hasText: '2 lines, 3 values pasted.' })).toContainText(
    'Not taken: “No such species” for Species in line 2.',
  );
  await expect(page.locator('[data-field^="packets.species#"] input').first()).toHaveValue('Fagus sylvatica');
});

test('a hundred lines: those far off are plain text, and are live where somebody is; a new one is gone to at once', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  const id = await requestWithLines(page.request, 100, (line) => line);
  await page.goto(`/entry/seed_request/${id}`);
  const lines = page.locator('[data-lines="packets"] [data-line]');
  await expect(lines).toHaveCount(100);
  const far = lines.nth(99);
  await expect(far.locator('input')).toHaveCount(0);
  await expect(far.locator('[data-label="Packets"]')).toHaveText('100');
  // come near, it is live; what is being typed there stays when it is scrolled away from
  await far.scrollIntoViewIfNeeded();
  const packets = far.locator('[data-field^="packets.packets#"] input');
  await packets.fill('77');
  await lines.first().scrollIntoViewIfNeeded();
  await expect(lines.nth(50).locator('input')).toHaveCount(0);
  await expect(packets).toBeFocused();
  await expect(packets).toHaveValue('77');
  await packets.blur();
  await expect(far.locator('[data-label="Packets"]')).toHaveText('77');
  // nothing beside the lines makes the page longer than the screen
  expect(await page.evaluate(() => document.documentElement.scrollHeight - window.innerHeight)).toBe(0);
  await page.getByRole('button', { name: '+ line' }).click();
  await expect(lines).toHaveCount(101);
  await expect(lines.nth(100).locator('input').first()).toBeFocused();
  // wherever one stands, and after a line was taken out above, all that is seen is live; on a phone too, where a line is a card
  const plain = () =>
    lines.evaluateAll((all) => all.filter((l) => l.getBoundingClientRect().bottom > 0 && l.getBoundingClientRect().top < innerHeight && !l.querySelector('input')).length); // prettier-ignore
  for (const at of [3, 33, 52, 71, 97]) {
    await lines.nth(at).scrollIntoViewIfNeeded();
    await expect.poll(plain).toBe(0);
  }
  // a line is dragged from one stretch of lines into the next, and lies where it was let go
  await lines.nth(30).scrollIntoViewIfNeeded();
  await expect.poll(plain).toBe(0);
  const dragged = await lines.nth(30).getAttribute('data-line');
  const [grip, goal] = [await lines.nth(30).locator('.grip').boundingBox(), await lines.nth(34).boundingBox()];
  await page.mouse.move(grip!.x + 6, grip!.y + 8);
  await page.mouse.down();
  await page.mouse.move(grip!.x + 6, grip!.y + 40, { steps: 5 });
  await page.mouse.move(goal!.x + 16, goal!.y + goal!.height - 4, { steps: 12 });
  await page.mouse.up();
  await expect(lines.nth(34)).toHaveAttribute('data-line', dragged!);
  await expect(lines).toHaveCount(101);
  // why a value stands there is told where one can see it, however far down the field is
  await lines.nth(90).scrollIntoViewIfNeeded();
  await lines.nth(90).locator('[data-field^="packets.packets#"] input').focus();
  await page.keyboard.press('Alt+w');
  await expect(page.getByRole('heading', { name: /^Why Packets is/ })).toBeInViewport();
  await page.getByRole('button', { name: 'Close', exact: true }).first().click();
  await lines.nth(90).locator('input').first().focus();
  await page.keyboard.press('Control+Delete');
  await expect(lines).toHaveCount(100);
  await expect.poll(plain).toBe(0);
  await page.setViewportSize({ width: 390, height: 800 });
  for (const at of [7, 44, 83]) {
    await lines.nth(at).scrollIntoViewIfNeeded();
    await expect.poll(plain).toBe(0);
  }
});

test('a value from the weather service fills two fields, says when it failed, and is asked again; the link fills the bench', async ({
  page,
  request,
}) => {
  await signInHttp(request, 'maud@marrowfen.example');
  const failing = (weather: number) => request.put('/api/feeds/standins', { data: { name: 'weather', delay: 0, failing: weather } });
  // the feed is tried twice
  expect((await failing(2)).status()).toBe(200);
  await signIn(page, 'Ida Fenn');
  await page.goto('/entry/bench_task/new?bench=B4&task=Sow%20tray&site=nowhere');
  await expect(page.getByText('“nowhere” in the link')).toBeVisible();
  await expect(control(page, 'bench')).toHaveValue('B4');
  await expect(control(page, 'paragraph')).toHaveValue(/^Work ordered for \d+ \w+ \d{4}: Sow tray, by /);
  await control(page, 'site').click();
  await page.keyboard.type('Adder Carr');
  await page.keyboard.press('Enter');
  await expect(field(page, 'temperature')).toContainText(/answered|could not/);
  await page.getByRole('button', { name: 'Try again' }).first().click();
  await expect(control(page, 'temperature')).not.toHaveValue('');
  await expect(control(page, 'rain')).not.toHaveValue('');
  await expect(control(page, 'task')).toHaveValue('Sow tray');
});

test('from a lot to its germination tests and back: a new one opens under it', async ({ page }) => {
  await signIn(page, 'Nell Carr');
  await page.goto('/entry/germination_test');
  await page.getByRole('row').nth(1).getByRole('link').click();
  const lot = await control(page, 'lot').inputValue();
  await page.goto('/entry/lot_intake');
  await page.getByLabel('Search the records').fill(lot);
  await expect(page.getByText('1 found')).toBeVisible();
  await page.getByRole('row').nth(1).getByRole('link').click();
  const related = page.getByLabel('Related rows');
  await expect(related).toContainText(/Germination tests by Lot: [1-9]/);
  await related.getByRole('link', { name: 'New germination test' }).click();
  await expect(control(page, 'lot')).toHaveValue(lot);
  await expect(field(page, 'lot')).toContainText('from the link');
  await expect(control(page, 'species')).not.toHaveValue('');
});

test('a link made from what is tried opens an entry with those values', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/bench_task');
  await control(page, 'task').fill('Sow tray & label');
  await control(page, 'task').blur();
  await control(page, 'site').click();
  await page.keyboard.type('Adder Carr');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Create a link' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Bench', { exact: true }).fill('B7');
  await expect(dialog.getByAltText('The link as a code to be scanned')).toBeVisible();
  const address = dialog.getByLabel('The link', { exact: true });
  await expect(address).toHaveValue(/bench=B7/);
  await expect(address).toHaveValue(/site=Adder\+Carr/);
  const link = await address.inputValue();
  await page.goto(link);
  await expect(control(page, 'bench')).toHaveValue('B7');
  await expect(control(page, 'task')).toHaveValue('Sow tray & label');
  await expect(control(page, 'site')).toHaveValue('Adder Carr');
  await expect(field(page, 'site')).toContainText('from the link');
});

test('writing a formula: names with their values now are put in with a press, and the working shows each part', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/seed_request');
  await control(page, 'partner').click();
  await page.keyboard.type('Dunholm Primary');
  await page.keyboard.press('Enter');
  await pressField(page, 'discount');
  await page.getByRole('button', { name: /Discount, %: formula/ }).click();
  await formulaText(page).fill('');
  await page.getByRole('button', { name: 'Fields and names' }).click();
  await page.getByLabel('Find a name').fill('partner.kind');
  await expect(
    page.getByRole('group', { name: 'Fields and names' }).getByRole('listitem').filter({ hasText: 'partner.kind' }),
  ).toContainText('school');
  await page.getByRole('button', { name: 'partner.kind', exact: true }).click();
  await page.keyboard.type(' = "school"');
  await formulaText(page).fill('IF(partner.kind = "school", 25 * 2, 0)');
  await page.getByRole('button', { name: 'Step by step' }).click();
  await expect(page.getByLabel('Step by step', { exact: true })).toContainText('25 * 2');
  await expect(page.getByLabel('Step by step', { exact: true })).toContainText('50');
  await page.getByRole('button', { name: 'Cancel' }).click();
});
