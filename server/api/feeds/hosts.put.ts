import { contract } from '../../../core/contract/index.ts';
import { allowedHosts, setAllowedHosts } from '../../services/feeds';
import { route } from '../../utils/route';

/** Says which hosts feeds may ask. */
export default route(contract.feeds.hosts, async ({ ws, body: { hosts } }) => {
  await setAllowedHosts(ws, hosts);
  return { hosts: await allowedHosts(ws) };
});
