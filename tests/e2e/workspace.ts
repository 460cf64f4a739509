import { cpSync, rmSync } from 'node:fs';
import { test as base } from '@playwright/test';
import { type OwnServer, dataFolder, ready, startServer } from './server';

/*
 * Each file of tests has a server and a workspace of its own: a copy of the demo as it is at first, so that files run beside each
 * other and none builds on what another has done.
 */

/** Where `prepare.ts` has put the demo, loaded once for all. */
const PREPARED = 'BRISK_E2E_PREPARED';
export const prepared = (): string => {
  const folder = process.env[PREPARED];
  if (!folder) throw new Error('There is no prepared workspace: run the tests by playwright.config.ts.');
  return folder;
};
export const setPrepared = (folder: string): void => void (process.env[PREPARED] = folder);

/** A folder with the demo in it, of one’s own. */
export function demoFolder(): string {
  const folder = dataFolder();
  cpSync(prepared(), folder, { recursive: true });
  return folder;
}

/** The server of the file whose tests a worker runs now. */
class FileServer {
  private file: string | null = null;
  private server: OwnServer | null = null;
  private data: string | null = null;

  async of(file: string): Promise<string> {
    if (this.file !== file || !this.server) {
      await this.stop();
      this.data = demoFolder();
      this.server = await startServer(this.data);
      this.file = file;
      await ready(this.server);
    }
    return this.server.url;
  }
  async stop(): Promise<void> {
    await this.server?.stop();
    if (this.data !== null) rmSync(this.data, { recursive: true, force: true });
    this.server = this.data = null;
  }
}

export const test = base.extend<object, { fileServer: FileServer }>({
  fileServer: [
    // eslint-disable-next-line no-empty-pattern -- a fixture that needs no other is written so
    async ({}, use) => {
      const server = new FileServer();
      await use(server);
      await server.stop();
    },
    { scope: 'worker' },
  ],
  baseURL: async ({ fileServer }, use, info) => use(await fileServer.of(info.file)),
});
export { expect } from '@playwright/test';
