import { z } from 'zod';
import { lookAt, lookFromForm } from '../../../../services/look';
import { idParam, route } from '../../../../utils/route';

const query = z.object({ form: z.string().max(60).optional() });

/** A row with all its columns, what it links to and what links to it; for those who enter, a row that their form offers. */
export default route({ may: 'signedIn', query }, ({ ws, account, params, query: { form } }) =>
  form === undefined
    ? lookAt(ws, account, params.key ?? '', idParam(params))
    : lookFromForm(ws, account, form, params.key ?? '', idParam(params)),
);
