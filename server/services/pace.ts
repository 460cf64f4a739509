/** How long anything may go on before others have their turn, in ms: a person who types does not notice. */
const TURN = 10;

/** Gives way to others now and then, in work on the main thread whose length somebody's input decides. */
export class Pace {
  private since = performance.now();
  /** Waits until others had their turn, when this has gone on for a while. Cheap otherwise: to be asked between any two steps. */
  async rest(): Promise<void> {
    if (performance.now() - this.since < TURN) return;
    await new Promise((resolve) => setImmediate(resolve));
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
