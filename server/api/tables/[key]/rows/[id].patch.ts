import { z } from 'zod';
import { datum } from '../../../../utils/datum';
import { changeRow } from '../../../../services/tables';
import { idParam, route } from '../../../../utils/route';

const body = z.object({ revision: z.number().int(), values: z.record(z.string(), datum) });

/** Changes a row if it still has the revision the person saw. */
export default route({ may: 'design', body }, ({ ws, account, params, body: { revision, values } }) =>
  changeRow(ws, account, params.key ?? '', idParam(params), revision, values),
);
