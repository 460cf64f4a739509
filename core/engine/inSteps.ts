/**
 * Goes through a work that is done in steps without a pause, and gives what comes of it: where nobody waits, or where it is short. Works
 * in steps yield nothing; whoever must let others have their turn goes through them at their own pace.
 */
export function atOnce<T>(steps: Generator<void, T>): T {
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}
