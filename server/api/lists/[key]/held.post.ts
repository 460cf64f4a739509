import { z } from 'zod';
import { changeHeld } from '../../../services/lists';
import { route } from '../../../utils/route';

const value = z.string().min(1).max(200);
const body = z.object({ from: value, to: value });

/** Writes a changed value of the list into the records that hold the old one. */
export default route({ may: 'design', body }, async ({ ws, account, params, body: { from, to } }) => ({
  changed: await changeHeld(ws, account, params.key ?? '', from, to),
}));
