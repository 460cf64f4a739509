/** A directed graph over nodes 0…n-1: `reads[i]` are the nodes that i reads. */
export type Reads = readonly (readonly number[])[];

export interface Ordered {
  /** all nodes, each after what it reads (edges of cycles left out) */
  readonly order: readonly number[];
  /** each cycle once, as the nodes in it in reading order */
  readonly cycles: readonly (readonly number[])[];
}

/**
 * Orders a graph so that every node comes after what it reads; among free nodes the smallest comes first, so the
 * order is one and the same however the edges are listed. Strongly connected parts (Tarjan, iterative) are reported
 * as cycles and their inner edges ignored. Cost: nodes + edges, times log nodes for the choice of the smallest.
 */
export function order(reads: Reads): Ordered {
  const component = components(reads);
  const size = new Map<number, number>();
  for (const c of component) size.set(c, (size.get(c) ?? 0) + 1);
  const inner = (a: number, b: number): boolean => component[a] === component[b];

  const dependents: number[][] = reads.map(() => []);
  const missing = new Int32Array(reads.length);
  reads.forEach((sources, node) => {
    for (const source of new Set(sources)) {
      if (inner(node, source)) continue;
      dependents[source]?.push(node);
      missing[node]!++;
    }
  });
  const free = new Heap();
  missing.forEach((count, node) => count === 0 && free.push(node));
  const result: number[] = [];
  for (let node = free.pop(); node !== undefined; node = free.pop()) {
    result.push(node);
    for (const d of dependents[node] ?? []) if (--missing[d]! === 0) free.push(d);
  }
  return { order: result, cycles: cyclesOf(reads, component, size) };
}

function cyclesOf(reads: Reads, component: Int32Array, size: ReadonlyMap<number, number>): number[][] {
  const done = new Set<number>();
  const cycles: number[][] = [];
  reads.forEach((sources, node) => {
    const c = component[node] as number;
    const loops = sources.includes(node);
    if (done.has(c) || (!loops && (size.get(c) ?? 1) < 2)) return;
    done.add(c);
    cycles.push(loops ? [node] : shortestCycle(reads, node, (n) => component[n] === c));
  });
  return cycles;
}

/** The shortest way from a node back to itself inside its component, by breadth. */
function shortestCycle(reads: Reads, start: number, inside: (node: number) => boolean): number[] {
  const cameFrom = new Map<number, number>();
  const queue = [start];
  for (let i = 0; i < queue.length; i++) {
    const node = queue[i] as number;
    for (const source of reads[node] ?? []) {
      if (!inside(source)) continue;
      if (source === start) {
        const path = [node];
        for (let at = node; at !== start; at = cameFrom.get(at) as number) path.push(cameFrom.get(at) as number);
        return path;
      }
      if (!cameFrom.has(source)) {
        cameFrom.set(source, node);
        queue.push(source);
      }
    }
  }
  return [start];
}

/** The number of the strongly connected component of each node (Tarjan 1972, without recursion). */
function components(reads: Reads): Int32Array {
  const n = reads.length;
  const component = new Int32Array(n).fill(-1);
  const index = new Int32Array(n).fill(-1);
  const low = new Int32Array(n);
  const onStack = new Uint8Array(n);
  const stack: number[] = [];
  let counter = 0;
  let found = 0;
  for (let root = 0; root < n; root++) {
    if (index[root] !== -1) continue;
    const work: { node: number; next: number }[] = [{ node: root, next: 0 }];
    while (work.length) {
      const frame = work[work.length - 1] as { node: number; next: number };
      const { node } = frame;
      if (frame.next === 0) {
        index[node] = low[node] = counter++;
        stack.push(node);
        onStack[node] = 1;
      }
      const source = reads[node]?.[frame.next];
      if (source !== undefined) {
        frame.next++;
        if (index[source] === -1) work.push({ node: source, next: 0 });
        else if (onStack[source]) low[node] = Math.min(low[node] as number, index[source] as number);
        if (frame.next > 0) continue;
      }
      work.pop();
      const parent = work[work.length - 1];
      if (parent) low[parent.node] = Math.min(low[parent.node] as number, low[node] as number);
      if (low[node] === index[node]) {
        for (;;) {
          const member = stack.pop() as number;
          onStack[member] = 0;
          component[member] = found;
          if (member === node) break;
        }
        found++;
      }
    }
  }
  return component;
}

/** Numbers taken out smallest first. A number is put in at most once until it is taken out. */
export interface Smallest {
  readonly size: number;
  push(value: number): void;
  pop(): number | undefined;
}

/** For numbers below a known bound: a bit each, and where to look first. Putting in and taking out cost next to nothing. */
export class BitQueue implements Smallest {
  private readonly words: Int32Array;
  private from = 0;
  private count = 0;

  constructor(bound: number) {
    this.words = new Int32Array((bound >> 5) + 1);
  }

  get size(): number {
    return this.count;
  }

  push(value: number): void {
    const word = value >> 5;
    this.words[word]! |= 1 << (value & 31);
    if (word < this.from) this.from = word;
    this.count++;
  }

  pop(): number | undefined {
    if (this.count === 0) {
      this.from = 0;
      return undefined;
    }
    const { words } = this;
    let at = this.from;
    while (words[at] === 0) at++;
    this.from = at;
    const word = words[at] as number;
    const lowest = word & -word;
    words[at] = word ^ lowest;
    this.count--;
    return (at << 5) + 31 - Math.clz32(lowest);
  }
}

/** A binary heap of numbers, smallest first. */
export class Heap implements Smallest {
  private readonly items: number[] = [];

  get size(): number {
    return this.items.length;
  }

  push(value: number): void {
    const { items } = this;
    let at = items.length;
    items.push(value);
    while (at > 0) {
      const up = (at - 1) >> 1;
      const parent = items[up] as number;
      if (parent <= value) break;
      items[at] = parent;
      at = up;
    }
    items[at] = value;
  }

  pop(): number | undefined {
    const { items } = this;
    const top = items[0];
    const last = items.pop();
    if (items.length === 0 || last === undefined) return top;
    let at = 0;
    for (;;) {
      let child = 2 * at + 1;
      if (child >= items.length) break;
      if (child + 1 < items.length && (items[child + 1] as number) < (items[child] as number)) child++;
      const value = items[child] as number;
      if (value >= last) break;
      items[at] = value;
      at = child;
    }
    items[at] = last;
    return top;
  }
}
