import type { z } from 'zod';
import type { whoSchema } from './peopleSchemas.ts';

/* Who somebody must be, by role or by team: for moves, for what is seen and filled, for rights. Asked as a formula, like everything. */

export type Who = z.infer<typeof whoSchema>;
export const EVERYBODY: Who = { roles: [], teams: [] };
export const isEverybody = (who: Who): boolean => !who.roles.length && !who.teams.length;

/** A text as formulas write it. */
export const quoted = (text: string): string => `"${text.replaceAll('"', '""')}"`;

/** The formula that holds for these people: one of the roles, or one of the teams, is enough. Null: it holds for everybody. */
export function whoFormula(who: Who): string | null {
  const parts = [
    ...who.roles.map((role) => `${quoted(role)} IN (me.roles)`),
    ...(who.teams.length ? [`me.team IN (${who.teams.map(quoted).join(', ')})`] : []),
  ];
  return parts.length ? parts.join(' OR ') : null;
}

/** Whether somebody is one of these people; the same as the formula, where no form is at hand. Teams without regard to case. */
export function isOneOf(who: Who, roles: readonly string[], team: string | null): boolean {
  const mine = team?.trim().toLowerCase() ?? '';
  return isEverybody(who) || who.roles.some((r) => roles.includes(r)) || who.teams.some((t) => t.toLowerCase() === mine);
}

/** What those of a role are called. */
export const ROLE_WORDS: Readonly<Record<Who['roles'][number], string>> = {
  designer: 'designers',
  clerk: 'clerks',
  reviewer: 'reviewers',
  administrator: 'administrators',
};
/** “reviewers and the team Lab”; everybody where nobody is named. */
export function whoWords(who: Who): string {
  const parts = [...who.roles.map((r) => ROLE_WORDS[r]), ...who.teams.map((t) => `the team ${t}`)];
  return parts.length ? listed(parts, 'and') : 'everybody';
}
/** “a, b and c”. */
export const listed = (parts: readonly string[], last: string): string =>
  parts.length < 2 ? parts.join('') : `${parts.slice(0, -1).join(', ')} ${last} ${parts.at(-1)}`;
