import { type Form, fieldAt } from '~~/core/form/definition.ts';
import { listed } from '~~/core/form/who.ts';
import type { Rule, RuleEffect } from '~~/core/form/rules.ts';
import { formula } from '~~/core/formula/formula.ts';
import type { Scope } from '~~/core/formula/scope.ts';
import { conditionWords } from '~~/core/formula/words.ts';
import { foldText, hasWords, soughtWords } from '~~/core/values/text.ts';
import { YESNO } from '~~/core/values/typing.ts';

/** A rule in one sentence, for the register: what it asks, and what it does. */
export function ruleSentence(rule: Rule, form: Form, scope: Scope): string {
  const when = rule.when === null ? '' : conditionOf(rule.when, scope);
  const then = listed(
    rule.then.map((e) => effectWords(e, form)),
    'and',
  );
  const otherwise = listed(
    rule.otherwise.map((e) => effectWords(e, form)),
    'and',
  );
  const begin = when ? `If ${when}, ` : '';
  const text = `${begin}${then || 'nothing'}${otherwise ? `; otherwise ${otherwise}` : ''}.`;
  return text.charAt(0).toUpperCase() + text.slice(1);
}
function conditionOf(text: string, scope: Scope): string {
  const checked = formula(text, scope, YESNO);
  return checked.syntax ? conditionWords(checked.syntax, { checked, tables: scope.tables, now: () => null }) : text;
}
/** What an effect is about. */
export function placeLabel(form: Form, { field, section }: { readonly field: string | null; readonly section: string | null }): string {
  if (section !== null) return `the section ${form.pages.flatMap((p) => p.sections).find((s) => s.id === section)?.label || section}`;
  if (field === null) return 'the form';
  const [outer = ''] = field.split('.');
  const label = fieldAt(form, field)?.label ?? form.lines[field]?.label ?? field;
  return field.includes('.') ? `${form.lines[outer]?.label ?? outer} › ${label}` : label;
}
export function effectWords(effect: RuleEffect, form: Form): string {
  switch (effect.kind) {
    case 'show':
    case 'hide':
    case 'require':
      return `${effect.kind} ${placeLabel(form, effect)}`;
    case 'lock':
      return `make ${placeLabel(form, effect)} read-only`;
    case 'message':
      return `${effect.severity === 'error' ? 'refuse' : 'warn'} “${typeof effect.message === 'string' ? effect.message : effect.message.formula}”`;
    case 'set':
      return `set ${placeLabel(form, { field: effect.field, section: null })} to ${effect.formula || '…'}${effect.once ? ', once' : ''}`;
    case 'clear':
      return `clear ${placeLabel(form, { field: effect.field, section: null })}`;
    case 'step':
      return `move to ${form.steps?.list.find((s) => s.value === effect.to)?.label ?? (effect.to || '…')}`;
    default:
      return `add a line to ${form.lines[effect.lines]?.label ?? effect.lines}`;
  }
}

/** Where a rule names a text of these words, in its name, its note, its condition or its effects. */
export function ruleFound(rule: Rule, form: Form, scope: Scope, words: string): boolean {
  const text = `${rule.label} ${rule.note} ${rule.when ?? ''} ${ruleSentence(rule, form, scope)}`;
  return hasWords(foldText(text), soughtWords(words));
}
