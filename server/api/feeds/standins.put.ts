import { z } from 'zod';
import { Refused } from '../../services/errors';
import { behaviour } from '../../standins/index';
import { route } from '../../utils/route';

const body = z.object({ name: z.string(), delay: z.number().int().min(0).max(30_000), failing: z.number().int().min(0).max(1000) });

/** Makes a stand-in slow or failing, to see what a form does then. */
export default route({ may: 'design', body }, async ({ body: { name, delay, failing } }) => {
  if (!Object.hasOwn(behaviour, name)) throw new Refused(404, 'notFound', `There is no stand-in “${name}”.`);
  behaviour[name] = { delay, failing };
  return behaviour;
});
