import { tableFromGrid } from '../lut/grid';
import type { Table } from '../lut/table';
import { decodeImage, fileFormats } from '.';
import { readCube } from './cube';

/** Reads a file that holds a colour look-up table: a .cube file, or a picture of a table. @throws FileError */
export async function readTable(bytes: Uint8Array): Promise<Table> {
  return fileFormats.some((format) => format.matches(bytes))
    ? tableFromGrid(await decodeImage(bytes))
    : readCube(bytes);
}
