import { readFileSync, readdirSync } from 'node:fs';
import { expect, test } from 'vitest';
import { BEHIND, helpersStepBack } from './priority';

/** How far each thread of this process has stepped back, by its number. */
function niceOf(): Map<number, number> {
  const of = (thread: string): number => {
    // https://man7.org/linux/man-pages/man5/proc_pid_stat.5.html: the name stands in brackets, what follows it is told by its place
    const [, after] = /^.*\)(.*)$/s.exec(readFileSync(`/proc/self/task/${thread}/stat`, 'utf8')) as RegExpExecArray;
    return Number((after as string).trim().split(' ')[16]);
  };
  return new Map(readdirSync('/proc/self/task').map((thread) => [Number(thread), of(thread)]));
}

test.runIf(process.platform === 'linux')('V8’s threads step back, the one that answers does not', () => {
  helpersStepBack();
  const nice = niceOf();
  expect(nice.get(process.pid)).toBe(0);
  const helpers = [...nice].sort(([a], [b]) => a - b).filter(([thread]) => thread > process.pid).slice(0, 4); // prettier-ignore
  expect(helpers.map(([, of]) => of)).toEqual([BEHIND.long, BEHIND.long, BEHIND.long, BEHIND.long]);
});
