import { type H3Event, deleteCookie, getCookie, setCookie } from 'h3';
import { mostAge } from '../services/sessions';

const NAME = 'brisk_session';
/** Without TLS in front (BRISK_PLAIN_HTTP=yes) a cookie marked as secure would not be kept. */
const plain = (): boolean => process.env.BRISK_PLAIN_HTTP === 'yes' || process.env.NUXT_SESSION_COOKIE_SECURE === 'false';
const options = () => ({ httpOnly: true, sameSite: 'strict', secure: !plain(), path: '/' }) as const;

export const sessionToken = (event: H3Event): string | null => getCookie(event, NAME) ?? null;
export const setSessionToken = (event: H3Event, token: string): void =>
  setCookie(event, NAME, token, { ...options(), maxAge: Math.floor(mostAge() / 1000) });
export const clearSessionToken = (event: H3Event): void => deleteCookie(event, NAME, options());
