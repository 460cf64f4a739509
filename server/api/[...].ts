import { defineEventHandler, setHeader } from 'h3';
import { Refused } from '../services/errors';
import { methodsOf } from '../utils/methods';
import { answering } from '../utils/route';

/** What no other route answers: a path that is none, or a path that is not asked so. */
export default defineEventHandler((event) =>
  answering(event, async () => {
    const methods = methodsOf(event.path.replace(/[?#].*$/s, ''));
    if (!methods.length) throw new Refused(404, 'notFound', 'There is no such address.');
    setHeader(event, 'allow', methods.join(', '));
    throw new Refused(405, 'method', `This address takes ${methods.join(' and ')}, not ${event.method}.`);
  }),
);
