import { defineEventHandler, setHeader, setResponseStatus } from 'h3';
import { setSetting } from '../database/settings';
import { troubleOf } from '../utils/trouble';
import { useWorkspace } from '../utils/workspace';

/** A write is tried at most this often, in milliseconds: anybody may ask how the server is. */
const PROBED = 5000;
let probed: { at: number; trouble: string | null } | null = null;

async function probe(): Promise<string | null> {
  try {
    const { db } = await useWorkspace();
    // a full disk, a file that cannot be written and one that others hold show only when something is written
    await setSetting(db, 'health', new Date().toISOString());
    return null;
  } catch (e) {
    return troubleOf(e) ?? 'The database cannot be used.';
  }
}

/** Whether the server can do its work, database and disk included: 200 when it can, 503 with a sentence when it cannot. */
export default defineEventHandler(async (event) => {
  setHeader(event, 'cache-control', 'no-store');
  if (!probed || Date.now() - probed.at > PROBED) probed = { at: Date.now(), trouble: await probe() };
  if (probed.trouble === null) return { ok: true };
  setResponseStatus(event, 503);
  return { ok: false, message: probed.trouble };
});
