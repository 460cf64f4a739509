import { z } from 'zod';
import { allowedHosts, setAllowedHosts } from '../../services/feeds';
import { route } from '../../utils/route';

const body = z.object({ hosts: z.array(z.string().max(200)).max(200) });

/** Says which hosts feeds may ask. */
export default route({ may: ['administrator'], body }, async ({ ws, body: { hosts } }) => {
  await setAllowedHosts(ws, hosts);
  return { hosts: await allowedHosts(ws) };
});
