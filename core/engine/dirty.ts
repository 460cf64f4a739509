import type { Reason } from '../model/valueState.ts';
import type { CellKeys } from './cellKey.ts';
import type { Frame } from './frame.ts';
import { BitQueue, Heap, type Smallest } from './graph.ts';
import type { PlanCells } from './plan.ts';
import type { Cause } from './state.ts';

/** The cells that are still to be computed: each once, in the order in which they depend on each other, with why. */
export class Dirty {
  private readonly queue: Smallest;
  private readonly local: Int32Array;

  constructor(
    { local }: Pick<PlanCells, 'local'>,
    private readonly keys: CellKeys,
    hasLines: boolean,
    /** by cell id, whether it is computed at all; without it all are */
    private readonly within: Uint8Array | null = null,
  ) {
    this.local = local;
    // without lines keys are few and known: a bit each
    this.queue = hasLines ? new Heap() : new BitQueue(local.length);
  }

  get size(): number {
    return this.queue.size;
  }

  /** A cell is to be computed. What opened is computed as changed when something it reads has changed too. */
  mark(frame: Frame, cell: number, reason: Reason, cause: Cause): void {
    if (this.within !== null && this.within[cell] === 0) return;
    const local = this.local[cell] as number;
    if (frame.reasons[local] === null) {
      this.queue.push(this.keys.of(cell, frame));
      frame.reasons[local] = reason;
      frame.causes[local] = cause;
    } else if (reason === 'change') frame.reasons[local] = 'change';
  }

  /** A cell that was taken out and not computed is to be computed still. */
  putBack(key: number): void {
    this.queue.push(key);
  }

  /** The key of the next cell; undefined when none is left. */
  pop(): number | undefined {
    return this.queue.pop();
  }
}
