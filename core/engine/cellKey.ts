import type { Frame } from './frame.ts';

/** More frames than an entry can have: the frame is what is left of a key when its cells are taken away. */
const FRAMES = 2 ** 21;

/**
 * A cell in a frame as one number: keys in ascending order are cells in the order in which they are computed. This is the one place
 * that knows how the number is made; without lines there is one frame, and the key is the cell's id.
 */
export class CellKeys {
  private readonly frames: number;
  constructor(hasLines: boolean) {
    this.frames = hasLines ? FRAMES : 1;
  }
  of(cell: number, frame: Pick<Frame, 'no'>): number {
    return cell * this.frames + frame.no;
  }
  cellOf(key: number): number {
    return this.frames === 1 ? key : Math.floor(key / this.frames);
  }
  /** the number of its frame */
  frameOf(key: number): number {
    return this.frames === 1 ? 0 : key % this.frames;
  }
}
