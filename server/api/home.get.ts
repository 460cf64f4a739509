import { contract } from '../../core/contract/index.ts';
import { homeOf } from '../services/home';
import { route } from '../utils/route';

/** What needs whoever asks, and what they saved lately. */
export default route(contract.home.read, ({ ws, account }) => homeOf(ws, account));
