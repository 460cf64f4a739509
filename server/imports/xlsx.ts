import type { Batches } from './files';
import { threadLines } from './thread';
import { zipEntries } from './zip';

/** The first sheet of a workbook as lines. Its unpacked size, as it declares it, is judged before it is read. */
export async function* xlsxLines(path: string): Batches {
  const { zip } = await zipEntries(path);
  zip.close();
  yield* threadLines('xlsx', path);
}
