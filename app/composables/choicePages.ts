import { useDebounceFn } from '@vueuse/core';
import { searchFor } from '~~/core/engine/wants.ts';
import type { Row } from '~~/core/values/types.ts';
import { type EntryHost, FIRST_PAGE } from './useEntryHost';

interface Pages {
  readonly rows: readonly Row[];
  readonly more: boolean;
  /** why the last page could not be read */
  readonly failed: string | null;
}
const NONE: Pages = { rows: [], more: false, failed: null };

/** Whose list it is, whether it is open and large, what it is narrowed by (as a key), and what is typed to search it. */
interface ListOpen {
  readonly name: () => string;
  readonly open: Readonly<Ref<boolean>>;
  readonly isLarge: Readonly<Ref<boolean>>;
  readonly narrowedBy: () => string | undefined;
  readonly text: Readonly<Ref<string | null>>;
}

/** The pages of a large list: the first when it is opened or searched, others as somebody goes on. */
export function useChoicePages(host: EntryHost, { name, open, isLarge, narrowedBy, text }: ListOpen) {
  const paged = shallowRef(NONE);
  const reading = ref(false);
  /** what the pages that are there were searched by */
  const pagedFor = ref('');
  let asked = 0;
  /** Reads the first page, or the one after what is there. */
  async function readPage(further = false): Promise<void> {
    const mine = ++asked;
    const before = further ? paged.value.rows : [];
    const sought = searchFor(text.value ?? '');
    const here = host.pageKnown(name(), sought, before.length, FIRST_PAGE);
    reading.value = !here;
    const page = here ? { ...here, failed: null } : await host.page(name(), sought, before.length, FIRST_PAGE);
    // a late answer never replaces a newer one
    if (mine !== asked) return;
    // a row that was added meanwhile may have moved another onto the next page
    const known = new Set(before.map((r) => r.id));
    paged.value = { ...page, rows: [...before, ...page.rows.filter((r) => !known.has(r.id))] };
    pagedFor.value = sought;
    reading.value = false;
  }
  const readSoon = useDebounceFn(() => readPage(), 120);
  // the list may be opened before it is known what it offers, or change while it is open; rows of another parent never stand in it
  watch([open, isLarge, narrowedBy], ([isOpen, large, now], [, , before]) => {
    if (now !== before) paged.value = NONE;
    if (isOpen && large) void readPage();
  });
  function readFurther(): void {
    if (isLarge.value && paged.value.more && !reading.value) void readPage(true);
  }
  return { paged, reading, pagedFor, readPage, readSoon, readFurther };
}
