/**
 * How long anything may go on before others have their turn, in ms: a person who types does not notice. Where something takes long, less: one
 * turn of the event loop holds several such spans, of what came in, of what is written, of what has waited, each with the step that it ends
 * with, and threads that work beside it draw all of them out (tests/bench/mixed.bench.ts). Where many short works are all there is, more of
 * them go together.
 */
const [TURN, BESIDE_LONG] = [10, 4];
/** What takes so long, in ms, is there for all to be careful; and how long after it was met. */
const [CAREFUL, LATELY] = [100, 200];
/** When something that takes long was met last. */
let longAt = -Infinity;
const turnOf = (now: number): number => (now - longAt < LATELY ? BESIDE_LONG : TURN);
/** What has gone on for longer than this in all, in ms, waits behind what has not: who saves a record need not wait for who imports a table. */
const LONG = 20;

/** Who waits to go on, in the order they came: those who are soon done, and those who are not. */
const short: (() => void)[] = [];
const long: (() => void)[] = [];
let isComing = false;

/** When what is computed now was begun: since then nobody had a turn. Null until somebody asks, in each turn of the event loop. */
let began: number | null = null;
function sinceTurn(now: number): number {
  if (began === null) {
    began = now;
    setImmediate(() => (began = null));
  }
  return now - began;
}

/** Whether those that take long come first in the next turn: they and the others take turns, where there are both. */
let isForLong = false;
/**
 * One turn of the event loop. Those who wait go on one after the other until the turn is used up, the others in the turns after it:
 * however many works there are, what comes in from outside waits for one turn of them.
 */
function turn(): void {
  const start = performance.now();
  const most = turnOf(start);
  const [first, second] = isForLong ? [long, short] : [short, long];
  isForLong = !isForLong;
  began = start;
  const next = (): void => {
    const goOn = performance.now() - start < most ? (first.shift() ?? second.shift()) : undefined;
    if (goOn) {
      goOn();
      // what goes on does so in microtasks; a tick that is asked for in one comes behind all of them
      queueMicrotask(() => process.nextTick(next));
      return;
    }
    began = null;
    if (short.length || long.length) setImmediate(turn);
    else isComing = false;
  };
  next();
}

/** Waits until others had their turn. Asked by long works after each of their parts, be it ever so short. */
export function othersFirst(): Promise<void> {
  longAt = performance.now();
  return waited(true);
}
function waited(isLong: boolean): Promise<void> {
  if (!isComing) {
    isComing = true;
    setImmediate(turn);
  }
  return new Promise((resolve) => (isLong ? long : short).push(resolve));
}

/**
 * Gives way to others now and then, in work on the main thread whose length somebody's input decides: when this, or all that is done in this
 * turn together, has gone on for a while. A hundred short works that come in at once are no shorter than a long one.
 */
export class Pace {
  private since = performance.now();
  /** how long it has gone on in all, in ms */
  private spent = 0;
  constructor() {
    sinceTurn(this.since);
  }

  /** Waits until others had their turn, where it is time. Cheap otherwise: to be asked between any two steps. */
  async rest(): Promise<void> {
    const now = performance.now();
    if (sinceTurn(now) < turnOf(now)) return;
    this.spent += Math.min(now - this.since, TURN);
    if (this.spent > CAREFUL) longAt = now;
    await waited(this.spent > LONG);
    this.since = performance.now();
  }

  /** Goes through the steps of something that is done in steps, and gives what comes of it. */
  async through<T>(steps: Generator<void, T>): Promise<T> {
    for (;;) {
      const step = steps.next();
      if (step.done) return step.value;
      await this.rest();
    }
  }
}
