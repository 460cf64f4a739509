import { about } from './about.ts';
import { archives } from './archive.ts';
import { entries } from './entries.ts';
import { home } from './home.ts';
import { forms } from './forms.ts';
import { feeds, lists } from './model.ts';
import { news } from './news.ts';
import { people, programs, rights, welcome, workspace } from './people.ts';
import { rehearsals } from './rehearsals.ts';
import { session } from './session.ts';
import { situations } from './situations.ts';
import { evidence } from './evidence.ts';
import { many } from './many.ts';
import { tables } from './tables.ts';
import { views } from './views.ts';
import { backfills, files, impacts, imports, jobs } from './work.ts';

/** Every route there is, by noun. */
export const contract = {
  about,
  session,
  home,
  news,
  people,
  welcome,
  workspace,
  archives,
  programs,
  rights,
  tables,
  lists,
  feeds,
  forms,
  entries,
  views,
  evidence,
  many,
  backfills,
  impacts,
  rehearsals,
  situations,
  imports,
  jobs,
  files,
};
