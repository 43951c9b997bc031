import { FileError } from '../core/files';

/** Reads a file that a person has chosen. @throws FileError where it was changed or taken away since */
export async function bytesOf(file: Blob): Promise<Uint8Array<ArrayBuffer>> {
  try {
    return new Uint8Array(await file.arrayBuffer());
  } catch {
    throw new FileError(
      'The file can’t be read: it was changed, moved or deleted after it was chosen, or it is too large for memory. Choose it again.'
    );
  }
}
