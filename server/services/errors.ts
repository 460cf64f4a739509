/** A refusal the client is told about: status, a code it can branch on, a sentence for people, and details. */
export class Refused extends Error {
  constructor(
    readonly status: 400 | 401 | 403 | 404 | 405 | 409 | 413 | 422 | 429 | 503,
    readonly code: string,
    message: string,
    readonly details: Readonly<Record<string, unknown>> = {},
  ) {
    super(message);
  }
}

export const notFound = (what: string): Refused => new Refused(404, 'notFound', `${what} does not exist.`);
