import { define } from './define.ts';

/* What open windows are told without asking. */

export const news = {
  hear: define({ method: 'GET', path: 'news', may: 'signedIn', about: 'Server-sent events for an open window: `versions` first, the newest version by form; then `published`, each with its form and version.' }),
}; // prettier-ignore
