import { contract } from '../../../core/contract/index.ts';
import { Refused } from '../../services/errors';
import { behaviour } from '../../standins/index';
import { route } from '../../utils/route';

/** Makes a stand-in slow or failing, to see what a form does then. */
export default route(contract.feeds.standIns, async ({ body: { name, delay, failing } }) => {
  if (!Object.hasOwn(behaviour, name)) throw new Refused(404, 'notFound', `There is no stand-in “${name}”.`);
  behaviour[name] = { delay, failing };
  return behaviour;
});
