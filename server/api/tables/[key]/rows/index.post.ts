import { z } from 'zod';
import { datum } from '../../../../utils/datum';
import { addRow } from '../../../../services/tables';
import { route } from '../../../../utils/route';

const body = z.object({ values: z.record(z.string(), datum) });

/** Adds a row. */
export default route({ may: 'design', body }, ({ ws, account, params, body: { values } }) => addRow(ws, account, params.key ?? '', values));
