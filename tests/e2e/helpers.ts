import { type APIRequestContext, type Locator, type Page, expect } from '@playwright/test';

/** Signs in as one of the demo's people, through the sign-in page. */
/** Signs in by hand, as somebody of the demo does, and comes home. */
export async function signInAtHome(page: Page, name: string): Promise<void> {
  await page.goto('/sign-in');
  await page.getByRole('button', { name: new RegExp(`^${name}`) }).click();
  await expect(page.getByRole('heading', { name: /^Good day/ })).toBeVisible();
}
/** Signs in for a page that goes somewhere next: two pages, which each of so many tests would wait for, are left out. */
export const signIn = (page: Page, name: string): Promise<void> =>
  signInHttp(page.request, `${name.split(' ')[0]!.toLowerCase()}@marrowfen.example`);

/** Signs in over HTTP; the cookie stays in the context. */
export async function signInHttp(request: APIRequestContext, email: string): Promise<void> {
  const answer = await request.post('/api/session', { data: { email, password: 'fen-and-marsh' } });
  expect(answer.status()).toBe(200);
}

/** A file as a person would choose it. */
export const csv = (name: string, lines: readonly string[]) => ({
  name,
  mimeType: 'text/csv',
  buffer: Buffer.from(`${lines.join('\n')}\n`, 'utf8'),
});

/** Exchanges a word of a sentence in the wiring: presses it and picks what shall stand there. */
export async function pickWord(scope: Page | Locator, label: string, choice: string | RegExp): Promise<void> {
  await scope
    .getByRole('button', { name: new RegExp(`^${label}:`) })
    .first()
    .click();
  // the list of words stands above the page
  await scopePage(scope).getByRole('option', { name: choice }).first().click();
}
const scopePage = (scope: Page | Locator): Page => ('page' in scope ? scope.page() : scope);

/** Chooses from a short list, by the label it has for those who do not see it. */
export async function pickOne(scope: Page | Locator, label: string | RegExp, choice: string | RegExp): Promise<void> {
  const list = scope.getByRole('combobox', { name: label, exact: true });
  await list.click();
  await list
    .page()
    .getByRole('option', { name: choice, exact: typeof choice === 'string' })
    .click();
}

/** The field's row of the live form or the entry. */
export const field = (page: Page, key: string): Locator => page.locator(`[data-field="${key}"]`);
export const control = (page: Page, key: string): Locator => field(page, key).locator('input, textarea').first();

/** Chooses in a look-up as a clerk does: by typing, and Enter when what is meant is offered. */
export async function choose(page: Page, key: string, text: string): Promise<void> {
  await control(page, key).click();
  await page.keyboard.type(text);
  await expect(page.getByRole('option', { name: new RegExp(`^${text}`) }).first()).toBeVisible();
  await page.keyboard.press('Enter');
}

/** The sentences about the field that is selected. */
export const wiringOf = (page: Page): Locator => page.getByRole('region', { name: 'Wiring of the selected field' });
/** A field's line in the form that is built, by its name. */
export const row = (page: Page, key: string): Locator => page.locator(`[data-row="${key}"]`);
/** The names of the fields in the form that is built, from the top. */
export const rowOrder = (page: Page): Promise<(string | undefined)[]> =>
  page.locator('[data-row]').evaluateAll((rows) => rows.map((r) => (r as HTMLElement).dataset.row));
/** Presses a field in the form that is built, so that its wiring is shown. */
export const pressField = (page: Page, key: string): Promise<void> => row(page, key).locator('label').first().click();
/** What a field is dragged by, or moved with by keys. */
export const grip = (page: Page, key: string): Locator =>
  row(page, key).getByRole('button', { name: /: drag, or Alt and arrows, to move$/ });
/** A cell of a table, by its line and its column. */
export const cell = (page: Page, line: number, column: number): Locator => page.locator(`[data-cell="${line}-${column}"]`);
/** The formula editor that is open, and what is written in it. */
export const editor = (page: Page): Locator => page.getByRole('group', { name: 'Formula', exact: true });
export const formulaText = (page: Page): Locator => editor(page).getByRole('textbox').first();
/** A formula as the sentences show it; pressed, it is edited. */
export const formulaWord = (scope: Page | Locator): Locator => scope.getByRole('button', { name: /\. Edit$/ });

interface Job {
  readonly state: 'running' | 'done' | 'failed' | 'cancelled';
  readonly result: unknown;
  readonly error: { readonly message: string } | null;
}
/** Begins long work over HTTP and waits for its end. */
export async function runJob(request: APIRequestContext, path: string, data: object): Promise<Job> {
  const begun = await request.post(path, { data });
  expect(begun.status(), await begun.text()).toBe(200);
  const { job } = (await begun.json()) as { job: string };
  for (;;) {
    const state = (await (await request.get(`/api/jobs/${job}`)).json()) as Job;
    if (state.state !== 'running') return state;
    await new Promise((resolve) => setTimeout(resolve, 30));
  }
}
/** Sends a file to be imported; gives the name it is spoken of by. */
export async function upload(request: APIRequestContext, name: string, body: string | Buffer): Promise<string> {
  const sent = await request.post(`/api/uploads?name=${encodeURIComponent(name)}`, {
    data: Buffer.from(body),
    headers: { 'content-type': 'application/octet-stream' },
  });
  expect(sent.status(), await sent.text()).toBe(200);
  return ((await sent.json()) as { id: string }).id;
}

/** The number of a lot that stands at a step, as the demo has it. */
export async function lotAt(request: APIRequestContext, step: string): Promise<number> {
  const { rows } = (await (await request.get('/api/forms/lot_intake/records?limit=50')).json()) as {
    rows: { row: { id: number; status: string | null } }[];
  };
  const found = rows.find((r) => r.row.status === step);
  if (!found) throw new Error(`The demo has no lot that is ${step}.`);
  return found.row.id;
}

/** Goes on with Tab until what has the focus is called so, pressing nothing else. */
export const tabTo = (page: Page, name: RegExp, most = 60, press = (key: string) => page.keyboard.press(key)): Promise<void> =>
  tabUntil(page, (here) => name.test(here.name), String(name), most, press);
/** The same, to the control of a field, by its key; of lines, to that of the first. */
export const tabToField = (page: Page, key: string): Promise<void> =>
  tabUntil(
    page,
    (here) => here.control && here.field.split('#')[0] === key,
    key,
    150,
    (k) => page.keyboard.press(k),
  );
interface Focused {
  readonly name: string;
  readonly field: string;
  readonly control: boolean;
}
async function tabUntil(page: Page, fits: (here: Focused) => boolean, what: string, most: number, press: (key: string) => Promise<void>) {
  for (let i = 0; i < most; i++) {
    const here = await page.evaluate((): Focused => {
      const focused = document.activeElement as HTMLElement | null;
      return {
        name: (focused?.getAttribute('aria-label') ?? focused?.textContent ?? '').trim(),
        field: focused?.closest<HTMLElement>('[data-field]')?.dataset.field ?? '',
        control: focused instanceof HTMLInputElement || focused instanceof HTMLTextAreaElement,
      };
    });
    if (fits(here)) return;
    await press('Tab');
  }
  throw new Error(`${what} was not reached`);
}

/** Saves a seed request of many lines, each of another species, with so many packets; gives its number. Somebody who builds is signed in. */
export async function requestWithLines(request: APIRequestContext, lines: number, packets: (line: number) => number): Promise<number> {
  const rows = async (table: string) =>
    ((await (await request.get(`/api/tables/${table}/rows?limit=200`)).json()) as { rows: { row: Record<string, unknown> }[] }).rows.map((r) => r.row); // prettier-ignore
  const [address] = await rows('partner_addresses');
  const species = (await rows('species')).filter((s) => s.active && !s.protected);
  const edits: object[] = [
    { kind: 'set', field: 'partner', value: address!.partner },
    { kind: 'set', field: 'address', value: address!.id },
    { kind: 'set', field: 'detail', value: 'genetics' },
    { kind: 'set', field: 'method', value: 'post' },
  ];
  for (let i = 1; i <= lines; i++) {
    if (i > 1) edits.push({ kind: 'addLine', field: 'packets', line: -i });
    edits.push({ kind: 'set', field: 'packets.species', line: -i, value: species[i % species.length]!.id });
    edits.push({ kind: 'set', field: 'packets.packets', line: -i, value: packets(i) });
  }
  const data = { version: 1, edits, revision: null, request: `${lines} lines` };
  const saved = await request.post('/api/forms/seed_request/records', { data, timeout: 120_000 });
  if (!saved.ok()) throw new Error(await saved.text());
  return ((await saved.json()) as { id: number }).id;
}
