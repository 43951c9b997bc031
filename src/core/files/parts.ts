import { joined } from './deflate';
import type { FinishedImage } from './image';

/** A file in parts that can be made by themselves, side by side, and follow each other in it. */
export interface FileParts<P extends { readonly bytes: Uint8Array } = { readonly bytes: Uint8Array }> {
  count(image: FinishedImage): number;
  /** The part of that number, from 0. @throws FileError */
  part(image: FinishedImage, index: number): Promise<P>;
  /** What stands before and after them. @param parts all of them, in order; of their bytes only how many they are is looked at */
  around(
    image: FinishedImage,
    parts: readonly P[]
  ): { readonly before: Uint8Array; readonly after: Uint8Array };
}

/**
 * The file of all its parts, made one after another.
 * @param onProgress is told the part that is done, and may throw to stop
 */
export async function writeParts<P extends { readonly bytes: Uint8Array }>(
  parts: FileParts<P>,
  image: FinishedImage,
  onProgress?: (part: number) => void
): Promise<Uint8Array> {
  const made: P[] = [];
  const count = parts.count(image);
  for (let i = 0; i < count; i++) {
    onProgress?.(i / count);
    made.push(await parts.part(image, i));
  }
  const { before, after } = parts.around(image, made);
  return joined([before, ...made.map(({ bytes }) => bytes), after]);
}
