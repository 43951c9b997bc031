import type { Metadata } from '../../raster/frame';
import { partOf } from '../wasm';
import { editedExif } from './exif';
import { editedIptc } from './iptc';

export type { Metadata };

/** What goes along into a file: all of it, all but what tells the place and the camera, or nothing. */
export const METADATA_CHOICES = ['keep', 'no-place', 'none'] as const;
export type MetadataChoice = (typeof METADATA_CHOICES)[number];

/** What is made of the picture that it speaks of. */
export interface MetadataEdit {
  /** Pixels of the file that is written. */
  readonly width: number;
  readonly height: number;
  /** Its colour space, as far as EXIF has a word for it. */
  readonly space: 'srgb' | 'adobe-rgb' | 'other';
  readonly withoutPlace: boolean;
  /** Sentences of what was done, for XMP. */
  readonly history: readonly string[];
}

const xmpEditor = partOf('reads and writes what stands in XMP', () => import('./xmp'));

/**
 * What goes into a file that is made of a picture: all as it was, byte for byte, but for what is not true of it any more (how it was held, its
 * size, its small picture, the numbers of its colours). A block that can't be read is handed on as it is, or left out where the place is to be.
 * @returns nothing where there is nothing to say
 * @throws FileError where the part that reads XMP can't be loaded
 */
export async function editedMetadata(
  { exif, iptc, xmp }: Metadata,
  edit: MetadataEdit
): Promise<Metadata | undefined> {
  const unread = (block: Uint8Array): Uint8Array | undefined => (edit.withoutPlace ? undefined : block);
  const edited: { -readonly [K in keyof Metadata]: Metadata[K] } = {};
  if (exif) edited.exif = editedExif(exif, edit) ?? unread(exif);
  if (iptc) edited.iptc = editedIptc(iptc, edit.withoutPlace) ?? unread(iptc);
  if (xmp || edit.history.length > 0) {
    const { editedXmp } = await xmpEditor();
    edited.xmp = editedXmp(xmp ?? null, edit) ?? (xmp && unread(xmp));
  }
  for (const key of ['exif', 'iptc', 'xmp'] as const) if (!edited[key]?.length) delete edited[key];
  return Object.keys(edited).length > 0 ? edited : undefined;
}
