import { describe, expect, it } from 'vitest';
import type { Metadata } from '../core/raster/frame';
import { toldAlong, type ExportSettings } from './export';

const block = new Uint8Array(12);
const told: Metadata = { exif: block, iptc: block };

describe('what of a picture and of what its file told has a place in the new one', () => {
  it.each<[Pick<ExportSettings, 'format' | 'grey' | 'metadata' | 'told'>, boolean, string, string]>([
    [{ format: 'png', told }, true, 'EXIF and IPTC of its file go along.', ''],
    [
      { format: 'jpeg', told },
      true,
      'EXIF and IPTC of its file go along.',
      'Its transparency has no place in JPEG, and is left out.'
    ],
    [
      { format: 'webp', told },
      true,
      'EXIF of its file goes along.',
      'IPTC of its file has no place in WebP, and is left out.'
    ],
    [
      { format: 'fits', told },
      true,
      '',
      'EXIF and IPTC of its file have no place in FITS, and are left out. Its transparency has no place in FITS, and is left out.'
    ],
    [
      { format: 'tiff', grey: true },
      true,
      '',
      'Its transparency has no place in a file of one plane, and is left out.'
    ],
    [{ format: 'jpeg', told, metadata: 'none' }, false, '', '']
  ])('%o', (settings, alpha, along, lost) => {
    expect(toldAlong(settings, { alpha })).toEqual({ along, lost });
  });
});
