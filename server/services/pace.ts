/** How long anything may go on before others have their turn, in ms: a person who types does not notice. */
const TURN = 10;

/** Who waits to go on, in the order they came. */
const waiting: (() => void)[] = [];
let isComing = false;

/**
 * One turn of the event loop. Those who wait go on one after the other until the turn is used up, the others in the turns after it:
 * however many long works there are, what comes in from outside waits for one turn of one of them.
 */
function turn(): void {
  const began = performance.now();
  const next = (): void => {
    if (!waiting.length) isComing = false;
    else if (performance.now() - began >= TURN) setImmediate(turn);
    else {
      waiting.shift()?.();
      // what goes on does so in microtasks; a tick that is asked for in one comes behind all of them
      queueMicrotask(() => process.nextTick(next));
    }
  };
  next();
}

/** Waits until others had their turn. Asked by long works after each of their parts, be it ever so short. */
export function othersFirst(): Promise<void> {
  if (!isComing) {
    isComing = true;
    setImmediate(turn);
  }
  return new Promise((resolve) => waiting.push(resolve));
}

/** Gives way to others now and then, in work on the main thread whose length somebody's input decides. */
export class Pace {
  private since = performance.now();
  /** Waits until others had their turn, when this has gone on for a while. Cheap otherwise: to be asked between any two steps. */
  async rest(): Promise<void> {
    if (performance.now() - this.since < TURN) return;
    await othersFirst();
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
