import { FileError } from '../core/files';

/** Does what reads a file that a person has chosen. @throws FileError where it was changed or taken away since */
export async function readable<T>(read: () => Promise<T>): Promise<T> {
  try {
    return await read();
  } catch {
    throw new FileError(
      'The file can’t be read: it was changed, moved or deleted after it was chosen, or it is too large for memory. Choose it again.'
    );
  }
}

/** The bytes of such a file. @throws FileError */
export const bytesOf = (file: Blob): Promise<Uint8Array<ArrayBuffer>> =>
  readable(async () => new Uint8Array(await file.arrayBuffer()));
