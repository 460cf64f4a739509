import { z } from 'zod';
import { takeUpload } from '../../services/uploads';
import { route } from '../../utils/route';

const query = z.object({ name: z.string().min(1).max(300) });

/** Takes in a file to be imported, as the body of the request, straight to disk. */
export default route({ may: 'design', query }, ({ event, ws, account, query: { name } }) =>
  takeUpload(ws, account.id, name, event.node.req),
);
