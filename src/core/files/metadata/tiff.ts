import type { ReadChoices } from '../image';
import { readPages } from '../tiff-directory';
import { exifOfTiff } from './exif';
import { iptcOf } from './resources';
import type { Metadata } from '.';

/** Tags of a TIFF that hold blocks of metadata; EXIF stands among what it says of its pixels. */
const [XMP, IPTC, RESOURCES] = [700, 33723, 34377];

/** @throws FileError where one of them lies outside the file */
export function tiffMetadata(bytes: Uint8Array, _: string[], { hdu = 0 }: ReadChoices): Metadata {
  const directory = readPages(bytes)[hdu];
  const [xmp, iptc, blocks] = [XMP, IPTC, RESOURCES].map((tag) => directory.bytes(tag) ?? undefined);
  const exif = exifOfTiff(directory) ?? undefined;
  return { exif, xmp, iptc: iptc ?? (blocks && (iptcOf(blocks) ?? undefined)) };
}
