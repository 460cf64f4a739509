import { type APIRequestContext, type Locator, type Page, expect } from '@playwright/test';

/** Signs in as one of the demo's people, through the sign-in page. */
export async function signIn(page: Page, name: string): Promise<void> {
  await page.goto('/sign-in');
  await page.getByRole('button', { name: new RegExp(`^${name}`) }).click();
  await expect(page.getByRole('heading', { name: /^Good day/ })).toBeVisible();
}

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
  await scope.getByRole('option', { name: choice }).first().click();
}

/** The field's row of the live form or the entry. */
export const field = (page: Page, key: string): Locator => page.locator(`[data-field="${key}"]`);
export const control = (page: Page, key: string): Locator => field(page, key).locator('input, textarea').first();
