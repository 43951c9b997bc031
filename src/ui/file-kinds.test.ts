import { expect, it } from 'vitest';
import { fileFormats, READABLE } from '$core/files';
import { IMAGE_FILES, IMAGE_FORMATS } from './file-kinds';

it('are those of the formats that are read, and FITS that is packed', () => {
  const endings = fileFormats.flatMap(({ extensions }) => extensions.map((one) => `.${one}`));
  expect(IMAGE_FILES.split(',')).toEqual([...endings, '.gz']);
  expect(IMAGE_FORMATS).toBe(READABLE);
});
