import { fieldOrder } from '~~/core/form/definition.ts';
import { accessAt, setAccess } from '~~/core/form/editSteps.ts';
import { EVERYBODY } from '~~/core/form/who.ts';

/** The places of the form that it can be said of who sees and fills them: those of which it is, and the others. */
export function useAccessPlaces() {
  const draft = useDraft();
  const all = computed(() => {
    const form = draft.form;
    if (!form) return [];
    const pages = form.pages.length > 1 ? form.pages.map((p, i) => ({ value: `@${p.id}`, label: `The page ${p.label || i + 1}` })) : [];
    const sections = form.pages.flatMap((p) => p.sections.map((s) => ({ value: `@${s.id}`, label: `The section ${s.label || s.id}` })));
    const fields = fieldOrder(form).filter((k) => k !== form.steps?.field).map((value) => ({ value, label: form.fields[value]!.label })); // prettier-ignore
    const lines = Object.entries(form.lines).flatMap(([key, l]) => [
      { value: key, label: `The lines ${l.label}` },
      ...l.columns.map((c) => ({ value: `${key}.${c}`, label: `${l.label} › ${l.fields[c]?.label ?? c}` })),
    ]);
    return [...pages, ...sections, ...fields, ...lines];
  });
  const said = (value: string): boolean => draft.form?.access.some((a) => a.place === value) ?? false;
  const asked = computed(() => {
    const known = all.value.filter((p) => said(p.value));
    const gone = (draft.form?.access ?? []).filter((a) => !all.value.some((p) => p.value === a.place)).map((a) => ({ value: a.place, label: `${a.place.replace(/^@/, '')}, which is not there` })); // prettier-ignore
    return [...known, ...gone];
  });
  const places = computed(() => all.value.filter((p) => !said(p.value)));
  /** Begins to say it of a place: that everybody fills it, which can be narrowed. */
  function ask(place: string): void {
    draft.change(setAccess(draft.form!, place, { ...accessAt(draft.form!, place), seen: [{ who: EVERYBODY, steps: [] }] }));
  }
  return { places, asked, ask };
}
