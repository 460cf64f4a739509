import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { TestProject } from 'vitest/node';

declare module 'vitest' {
  interface ProvidedContext {
    /** where the demo stands once one test of a run has loaded it: the others take a copy */
    demoFolder: string;
  }
}

/** A folder of this run's own: what an earlier one left may be of other code. */
export default function setup(project: TestProject): () => void {
  const folder = mkdtempSync(join(tmpdir(), 'brisk-demo-'));
  project.provide('demoFolder', folder);
  return () => rmSync(folder, { recursive: true, force: true });
}
