import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { TestProject } from 'vitest/node';
import type {} from './workspace';

/** A folder of this run's own: what an earlier one left may be of other code. */
export default function setup(project: TestProject): () => void {
  const folder = mkdtempSync(join(tmpdir(), 'brisk-demo-'));
  project.provide('demoFolder', folder);
  return () => rmSync(folder, { recursive: true, force: true });
}
