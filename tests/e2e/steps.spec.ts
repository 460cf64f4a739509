import type { Page } from '@playwright/test';
import { expect, test } from './workspace';
import { control, field, lotAt, pickWord, signIn, signInHttp } from './helpers';

/* Steps: moved at entry, enforced over HTTP for every role at every step, built in the Design area. */

const path = (page: Page) => page.getByRole('list', { name: 'Steps' });
const here = (page: Page) => path(page).locator('[aria-current="step"]');
const saved = (page: Page): Promise<void> => expect(page.getByText('saved', { exact: true })).toBeVisible();
test('at entry the step is a path: a move says what it still asks for, is taken back, is made, and stands in the history', async ({
  page,
}) => {
  await signIn(page, 'Nell Carr');
  const id = await lotAt(page.request, 'registered');
  await page.goto(`/entry/lot_intake/${id}`);
  await expect(here(page)).toHaveText('Registered');
  await expect(field(page, 'status'), 'no field of its own').toHaveCount(0);
  await page.getByRole('button', { name: 'Send to quarantine' }).click();
  await expect(here(page)).toHaveText('In quarantine');
  await expect(control(page, 'quarantine_from'), 'a rule of that step has filled it').not.toHaveValue('');
  await page.getByRole('button', { name: 'take back “Send to quarantine”' }).click();
  await expect(here(page)).toHaveText('Registered');
  await page.getByRole('button', { name: 'Send to quarantine' }).click();
  const release = page.getByRole('button', { name: 'Release', exact: true });
  await expect(release).toHaveAccessibleDescription('First fill Viability, %.');
  await expect(page.getByText('First fill Viability, %.').first()).toBeVisible();
  await release.click();
  await expect(control(page, 'viability'), 'pressed all the same, the keys go to what is missing').toBeFocused();
  await page.keyboard.type('35');
  await page.keyboard.press('Tab');
  await expect(page.getByText('Its condition does not hold.')).toBeVisible();
  await control(page, 'viability').fill('81');
  await page.keyboard.press('Tab');
  await expect(release).toHaveAccessibleDescription('');
  await release.click();
  await expect(here(page)).toHaveText('Released');
  await expect(control(page, 'species'), 'filled at other steps only').not.toBeEditable();
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page).toHaveURL(/\/entry\/lot_intake$/);
  await page.goto(`/entry/lot_intake/${id}`);
  await expect(here(page)).toHaveText('Released');
  await expect(control(page, 'checked_by')).toHaveValue('Nell Carr');
  await page.getByText('History', { exact: true }).click();
  await expect(page.getByText('Send to quarantine: Registered → In quarantine; Release: In quarantine → Released')).toBeVisible();
});

test('every role at every step over HTTP: what is seen, filled and moved is what the form says, and nothing else leaves the server', async ({
  request,
}) => {
  const people = { ida: 'clerk of the field', nell: 'reviewer of the lab', peg: 'administrator in the office' } as const;
  const steps = ['registered', 'in quarantine', 'released'] as const;
  /** field: who fills it at which step */
  const fills: Record<string, (who: keyof typeof people, step: (typeof steps)[number]) => boolean> = {
    viability: (who, step) => who === 'nell' && step === 'in quarantine',
    storage_c: (_, step) => step !== 'released',
    quantity_g: (who, step) => step !== 'released' || who === 'nell',
    store: () => true,
  };
  const moves: Record<string, (who: keyof typeof people, step: (typeof steps)[number]) => boolean> = {
    quarantine: (_, step) => step === 'registered',
    back: (who, step) => who === 'nell' && step === 'released',
    release: (who, step) => who === 'nell' && step === 'in quarantine',
  };
  await signInHttp(request, 'maud@marrowfen.example');
  const lots = Object.fromEntries(await Promise.all(steps.map(async (s) => [s, await lotAt(request, s)] as const)));
  let tried = 0;
  for (const who of Object.keys(people) as (keyof typeof people)[]) {
    await signInHttp(request, `${who}@marrowfen.example`);
    for (const step of steps) {
      const id = lots[step] as number;
      const opened = (await (await request.get(`/api/forms/lot_intake/records/${id}`)).json()) as {
        version: number;
        record: { revision: number; values: Record<string, unknown>; origins: object };
      };
      const { values, origins, revision } = opened.record;
      expect('viability' in values, `${who} is told the viability`).toBe(who !== 'ida');
      expect('viability' in origins && who === 'ida').toBe(false);
      const history = JSON.stringify(await (await request.get(`/api/forms/lot_intake/records/${id}/history`)).json());
      expect(who === 'ida' && history.includes('"viability"'), 'nor in the history').toBe(false);
      const send = async (edits: object[]): Promise<{ status: number; issues: Record<string, string> }> => {
        // a revision of the past: what is allowed is told, and nothing is written
        const answer = await request.put(`/api/forms/lot_intake/records/${id}`, {
          data: {
            version: opened.version,
            edits: [...edits, { kind: 'set', field: 'collected_on', value: '2999-01-01' }],
            revision,
            request: `steps ${who} ${step} ${++tried}`,
          },
        });
        return { status: answer.status(), issues: ((await answer.json()) as { issues?: Record<string, string> }).issues ?? {} };
      };
      for (const [key, may] of Object.entries(fills)) {
        const { status, issues } = await send([{ kind: 'set', field: key, value: key === 'store' ? null : 50 }]);
        expect(status).toBe(422);
        const refused = issues[key] ?? '';
        expect(/locked|not shown to you/.test(refused), `${who} fills ${key} at ${step}: ${refused}`).toBe(!may(who, step));
      }
      for (const [move, may] of Object.entries(moves)) {
        const { issues } = await send([{ kind: 'move', field: 'status', move }]);
        const refused = issues.status ?? '';
        expect(/not yours|not possible at/.test(refused), `${who} moves ${move} at ${step}: ${refused}`).toBe(!may(who, step));
      }
      expect((await send([{ kind: 'set', field: 'status', value: 'released' }])).issues.status).toContain('moved, not typed');
      expect((await send([{ kind: 'move', field: 'status', move: 'nosuch' }])).issues.status).toBe('There is no such move.');
    }
  }
});

test('steps are built: from a field that is there, a step, a move with who, condition and what must be filled; then tried', async ({
  page,
}) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/bench_task/steps');
  await pickWord(page.getByRole('main'), 'Field that holds the step', /new field/);
  await expect(page.getByLabel('Name of step 1')).toHaveValue('Draft');
  await page.getByLabel('Name of a new step').fill('Waiting');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Nobody can leave the step Waiting', { exact: false })).toBeVisible();
  await page.getByRole('button', { name: /^Whether a record may end at Waiting/ }).click();
  await page.getByRole('option', { name: 'may end here' }).click();
  await pickWord(page.getByRole('main'), 'A move from Draft to', 'Waiting');
  const panel = page.getByRole('region', { name: 'Move Waiting' });
  await pickWord(panel, 'Made by', 'clerks');
  await pickWord(panel, 'Must be filled', 'Bench');
  await expect(page.getByText(/→ Waiting: Waiting, by clerks, once Bench is filled/)).toBeVisible();
  await test.step('who sees and fills a field at which step', async () => {
    await pickWord(page.getByRole('main'), 'Say who sees and fills', 'Tool');
    await page.getByRole('button', { name: 'Filled: only some' }).click();
    await pickWord(page.getByRole('main'), 'Filled: at which steps', 'Waiting');
  });
  await saved(page);
  await page.getByRole('link', { name: 'Bench task' }).click();
  await expect(here(page)).toHaveText('Draft');
  await expect(control(page, 'tool')).not.toBeEditable();
  await test.step('as a clerk the move is offered, as the designer it is not', async () => {
    await expect(page.getByRole('button', { name: 'Waiting', exact: true })).toHaveCount(0);
    await pickWord(page.getByRole('main'), 'Person', 'Ida Fenn');
    await page.getByRole('button', { name: 'Waiting', exact: true }).click();
    await expect(control(page, 'bench')).toBeFocused();
    await page.keyboard.type('B2');
    await page.keyboard.press('Tab');
    await page.getByRole('button', { name: 'Waiting', exact: true }).click();
    await expect(here(page)).toHaveText('Waiting');
    await expect(control(page, 'tool')).toBeEditable();
    await expect(page.getByRole('log', { name: 'What happened' })).toContainText('moved: Waiting');
  });
});
