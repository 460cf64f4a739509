import { expect, test } from 'vitest';
import { testEnv, testScope } from '../testing/scope.ts';
import { namesAtHand } from './atHand.ts';
import { explainNames, explainWorking } from './explain.ts';
import { formula } from './formula.ts';

test('every name with the columns of the rows it holds; each is a formula without mistakes, of the type it says', () => {
  const all = namesAtHand(testScope());
  expect(all.map((n) => n.path)).toEqual(expect.arrayContaining(['a', 'species', 'species.genus', 'me.email', 'before.word']));
  for (const { path, type } of all.filter((n) => n.path !== 'before')) {
    const f = formula(path, testScope());
    expect(f.problems, path).toEqual([]);
    expect(f.type, path).toEqual(type);
  }
});

test('sought by path or label, a column with the name it belongs to', () => {
  expect(namesAtHand(testScope(), 'STORAGE').map((n) => n.path)).toEqual(['species', 'species.storage_c', 'last', 'last.storage_c']);
  expect(namesAtHand(testScope(), 'nothing of the kind')).toEqual([]);
});

test('the working of a look-up: what it finds, not the rows it looks at; names come from the condition and from holes', () => {
  const f = formula('PICK(species, choice.storage_c = a).name & TEMPLATE("{word}!")', testScope());
  const env = testEnv({ a: 2, word: 'x' });
  expect(explainWorking(f, env).map((w) => [w.text, w.value])).toEqual([
    ['PICK(species, choice.storage_c = a)', 100],
    ['PICK(species, choice.storage_c = a).name', 'Quercus robur'],
    ['word', 'x'],
    ['TEMPLATE("{word}!")', 'x!'],
    ['PICK(species, choice.storage_c = a).name & TEMPLATE("{word}!")', 'Quercus robur' + 'x!'],
  ]);
  expect(explainNames(f, env).map((n) => n.text)).toEqual(expect.arrayContaining(['a', 'word']));
  expect(explainNames(f, env).map((n) => n.text)).not.toContain('species');
});
