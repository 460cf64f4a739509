import { PLAIN, type ValueKind, charactersProblem } from './kind.ts';

const MAX_JSON = 200_000;
const parseProblem = (text: string): string | null => {
  try {
    JSON.parse(text);
    return null;
  } catch (e) {
    return e instanceof Error ? e.message : 'it cannot be read';
  }
};

export const json: ValueKind = {
  ...PLAIN,
  label: 'JSON',
  standard: { type: 'object' },
  formula: () => ({ kind: 'json' }),
  read: (text) => {
    const odd = text.trim() === '' ? null : parseProblem(text);
    return odd === null ? PLAIN.read(text) : { ok: false, message: `This is not valid JSON: ${odd}.` };
  },
  problem: (value, label) => {
    if (typeof value !== 'string') return `${label} must be JSON.`;
    const odd = charactersProblem(label, value);
    if (odd !== null) return odd;
    if (value.length > MAX_JSON) return `${label} is larger than ${MAX_JSON / 1000} kilobytes.`;
    const wrong = parseProblem(value);
    return wrong === null ? null : `${label} is not valid JSON: ${wrong}.`;
  },
  made: (from, value, texts) => {
    if (from === 'json') return { ok: true, value };
    return { ok: true, value: JSON.stringify(Array.isArray(value) ? texts : typeof value === 'string' ? texts[0] : value) };
  },
  asJson: (value) => (typeof value === 'string' ? (JSON.parse(value) as unknown) : value),
};
