import { contract } from '../../../../core/contract/index.ts';
import { activeRoles } from '../../../database/accounts';
import { settleEntry } from '../../../services/wants';
import { ownedTables } from '../../../services/owners';
import { workCalendar } from '../../../services/settings';
import { draftOf } from '../../../services/forms';
import { withoutAddress } from '../../../../core/engine/reach.ts';
import { openEntry } from '../../../../core/engine/entry.ts';
import { route } from '../../../utils/route';

/** The draft with everything the design screen needs to run it: tables, answers for a first entry. */
export default route(contract.forms.draft, async ({ ws, account, params }) => {
  const key = params.key;
  const { draft, revision, version, published } = await draftOf(ws, key);
  const plan = await ws.plan(`draft ${revision}`, draft);
  const now = ws.clock.now();
  const context = { today: now.slice(0, 10), now, me: account.person, roles: account.roles, calendar: await workCalendar(ws) };
  const answered = await settleEntry(ws, openEntry(plan, { ...context, mode: 'new' }, ws.newCache()), account);
  return {
    draft,
    revision,
    version,
    published,
    tables: [...plan.tables.values()],
    lists: [...(await ws.lists()).values()],
    // where and how a feed is asked is the server's business; the Feeds screen has a route of its own
    feeds: [...(await ws.feeds()).values()].map(withoutAddress),
    context,
    answered,
    owned: [...(await ownedTables(ws))],
    // as whom it may be tried
    accounts: await activeRoles(ws.db),
  };
});
