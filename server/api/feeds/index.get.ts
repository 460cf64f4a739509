import { contract } from '../../../core/contract/index.ts';
import { allowedHosts, feedAnswers } from '../../services/feeds';
import { behaviour } from '../../standins/index';
import { route } from '../../utils/route';

/** All feeds with where they are used, the hosts that may be asked, and the stand-ins that ship with the application. Never a secret. */
export default route(contract.feeds.list, async ({ ws }) => ({
  feeds: await feedAnswers(ws),
  hosts: await allowedHosts(ws),
  standIns: behaviour,
}));
