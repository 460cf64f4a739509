import { Thread, excelPath } from '../utils/thread';

/* Workbooks are made in a thread: packing a sheet of a million rows takes long, and keeps nobody waiting there. */

export interface SheetColumn {
  readonly header: string;
  readonly width: number;
  /** how its values are shown, in the notation of workbooks */
  readonly numFmt: string | null;
}
/** What a cell of a sheet holds. */
export type SheetValue = string | number | boolean | Date | null;

const MEMORY_MB = 1024;

const THREAD = `
const { parentPort, workerData } = require('node:worker_threads');
const { Writable } = require('node:stream');
const Excel = require(workerData.excel);
const stream = new Writable({ write(chunk, _, done) { parentPort.postMessage({ chunk: new Uint8Array(chunk) }); done(); } });
const book = new Excel.stream.xlsx.WorkbookWriter({ stream, useStyles: true });
const sheet = book.addWorksheet(workerData.name, { views: [{ state: 'frozen', ySplit: 1 }] });
sheet.columns = workerData.columns.map((c, i) => ({ header: c.header, key: String(i), width: c.width, style: c.numFmt ? { numFmt: c.numFmt } : {} }));
parentPort.on('message', async ({ rows }) => {
  if (rows) {
    for (const row of rows) sheet.addRow(row).commit();
    // what was packed goes out before more is asked for
    setImmediate(() => parentPort.postMessage({ next: true }));
    return;
  }
  sheet.commit();
  await book.commit();
  parentPort.postMessage({ end: true });
});
`;

type Message = { readonly chunk: Uint8Array } | { readonly next: true } | { readonly end: true };

/** A workbook of one sheet, piece by piece, as its rows come. Throws ThreadFailure when it cannot be made to its end. */
export async function* workbook(
  name: string,
  columns: readonly SheetColumn[],
  pages: AsyncIterable<readonly (readonly SheetValue[])[]>,
): AsyncGenerator<Uint8Array> {
  const thread = new Thread<Message>(THREAD, { name, columns, excel: excelPath() }, MEMORY_MB);
  try {
    for await (const rows of pages) {
      thread.post({ rows });
      yield* pieces(thread);
    }
    thread.post({});
    yield* pieces(thread);
  } finally {
    await thread.end();
  }
}

/** What comes out until more is asked for. */
async function* pieces(thread: Thread<Message>): AsyncGenerator<Uint8Array> {
  for (;;) {
    const message = await thread.next();
    if (!('chunk' in message)) return;
    yield message.chunk;
  }
}
