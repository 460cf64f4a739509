import { type Form, fieldAt } from '../form/definition.ts';
import { isLockedByFill } from '../form/fills/index.ts';
import { canOwn } from '../form/owners.ts';
import { type FormProblem, formProblem } from '../form/problems.ts';
import { type Move, type Steps, startsFrom } from '../form/steps.ts';
import { whoFormula } from '../form/who.ts';
import * as T from '../values/typing.ts';
import type { StateCompiler } from './compileStates.ts';
import type { Plan, PlanLines } from './plan.ts';
import { type PlanAct, formulasOfAct } from './rules.ts';
import { type PlanMove, type PlanSteps, readByMoves } from './steps.ts';

type Fields = Pick<Plan, 'fields'>;

/**
 * The steps of a form with the moves that can be made. What cannot work is a problem: a step field that is not there or is calculated, steps
 * and moves that name what is not there, a step that nobody can leave or nobody can reach, places of access that are not there. Cost:
 * linear in moves, steps and access.
 */
export function compileSteps(
  form: Form,
  { fields }: Fields,
  lines: readonly PlanLines[],
  states: StateCompiler,
  problems: FormProblem[],
): PlanSteps | null {
  const note = (message: string, severity: FormProblem['severity'] = 'error'): void =>
    void problems.push(formProblem('steps', null, null, message, { steps: true, severity }));
  accessProblems(form, note);
  ownerProblems(form, note);
  const { steps } = form;
  if (!steps) return null;
  const holder = fields.find((f) => f.key === steps.field && f.group === null);
  if (!holder) return (note(`The step is kept in “${steps.field}”, but the form has no such field. Choose the field that holds it.`), null);
  const { label, type } = holder.definition;
  if (type !== 'choice' && type !== 'text') return (note(`The step is kept in ${label}, which must be a choice or a text.`), null);
  if (isLockedByFill(holder)) return (note(`The step is kept in ${label}, which is calculated. A step is moved to: take its calculation away.`), null); // prettier-ignore
  if (holder.definition.value === null && holder.definition.column !== null)
    note(`A new record has no step written down: give ${label} its first step as default, so that lists and formulas find it.`, 'warning');
  const offered = holder.choices?.options;
  for (const step of steps.list)
    if (offered && !offered.some((o) => o.value === step.value)) note(`The step ${step.label} is none of the choices of ${label}.`);
  lifeProblems(steps, note);
  const moves = steps.moves.flatMap((move) => compileMove(move));
  return { definition: steps, slot: holder.slot, moves, reads: readByMoves(fields.length, holder.slot, moves) };

  function compileMove(move: Move): PlanMove[] {
    const known = new Set(steps?.list.map((s) => s.value));
    const before = problems.length;
    for (const at of [...move.from, move.to])
      if (!known.has(at)) note(`${move.label} speaks of the step “${at}”, which this form does not have.`);
    const filled = move.filled.flatMap((key) => {
      const field = fields.find((f) => f.key === key && f.group === null);
      const group = lines.find((l) => l.key === key);
      const said = field?.definition.label ?? group?.definition.label;
      if (said === undefined) return (note(`${move.label} asks that “${key}” is filled, but this form has no such field.`), []);
      return [{ key, slot: field?.slot ?? -1, label: said }];
    });
    const sets = move.sets.flatMap(({ field: key, formula: text }, i): PlanAct[] => {
      const field = fields.find((f) => f.key === key && f.group === null);
      if (!field) return (note(`${move.label} sets “${key}”, but this form has no such field outside lines.`), []);
      if (field.slot === holder?.slot) return (note(`${move.label} sets ${field.definition.label}, which holds the step: a move leads to one step.`), []); // prettier-ignore
      if (isLockedByFill(field)) return (note(`${move.label} sets ${field.definition.label}, which is calculated.`), []);
      const formula = text.trim() === '' ? null : states.ofMove(move, `then.${i}`, text, field.type);
      return text.trim() !== '' && !formula ? [] : [{ kind: 'set', slot: field.slot, formula, once: false }];
    });
    const when = states.ofMove(move, 'when', move.when, T.YESNO);
    // a save does not wait for an outside service to judge a move: what it answers must stand in a field
    const asked = [when, ...sets.flatMap(formulasOfAct)].some((f) => f && [...f.extras.values()].some((e) => e.kind === 'feed'));
    if (asked) note(`${move.label} asks a feed. Let a field ask it, and let the move ask the field.`);
    const who = states.generated(whoFormula(move.who));
    return problems.slice(before).some((p) => p.severity === 'error') ? [] : [{ definition: move, who, when, filled, sets }];
  }
}

type Note = (message: string, severity?: FormProblem['severity']) => void;

/** Steps that nobody can leave, or come to. */
function lifeProblems(steps: Steps, note: Note): void {
  const [first] = steps.list;
  for (const step of steps.list) {
    if (!step.ends && !steps.moves.some((m) => startsFrom(m, step.value)))
      note(`Nobody can leave the step ${step.label}: add a move from it, or say that a record may end there.`);
  }
  const reached = new Set([first?.value]);
  for (let more = true; more;) {
    const next = steps.moves.filter((m) => !reached.has(m.to) && [...reached].some((r) => r !== undefined && startsFrom(m, r)));
    next.forEach((m) => reached.add(m.to));
    more = next.length > 0;
  }
  for (const step of steps.list)
    if (!reached.has(step.value))
      note(`No moves lead from ${first?.label ?? ''} to the step ${step.label}: no record comes there.`, 'warning');
}

/** Fields that say whose a record is, which are not there, not saved, or hold neither people nor a team. */
function ownerProblems(form: Form, note: Note): void {
  for (const key of form.owners?.fields ?? []) {
    const field = form.fields[key];
    if (!field) note(`Records belong to whoever stands in “${key}”, but this form has no such field.`);
    else if (!field.column) note(`Records belong to whoever stands in ${field.label}, which is not saved: give it a column.`);
    else if (!canOwn(field)) note(`Records belong to whoever stands in ${field.label}, which must hold people, or the name of a team.`); // prettier-ignore
  }
}

/** Places and steps of access that are not there. */
function accessProblems(form: Form, note: Note): void {
  const places = new Set([...form.pages.flatMap((p) => [`@${p.id}`, ...p.sections.map((s) => `@${s.id}`)]), ...Object.keys(form.lines)]);
  const known = new Set(form.steps?.list.map((s) => s.value));
  for (const { place, seen, filled } of form.access) {
    if (!places.has(place) && !fieldAt(form, place))
      note(
        `Who sees and fills “${place.replace(/^@/, '')}” is said, but this form has no such ${place.startsWith('@') ? 'section' : 'field'}.`,
      );
    for (const step of new Set([...seen, ...filled].flatMap((g) => g.steps)))
      if (!known.has(step))
        note(`Who sees and fills ${place.replace(/^@/, '')} speaks of the step “${step}”, which this form does not have.`);
    if (place === form.steps?.field && filled.length) note('The field that holds the step is filled by moves alone: say at the move who may.', 'warning'); // prettier-ignore
  }
}
