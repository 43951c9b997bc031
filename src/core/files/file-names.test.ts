import { describe, expect, it } from 'vitest';
import { freeFileName, freeFileNames, ownFileName, withoutExtension } from './file-names';

describe('names of files', () => {
  it('are free of folders, of nothing, and of what is too long before the extension', () => {
    expect(ownFileName('kiln/day\\one.tif')).toBe('kiln_day_one.tif');
    expect(ownFileName('')).toBe('picture');
    const long = ownFileName(`${'k'.repeat(300)}.tiff`);
    expect(long).toBe(`${'k'.repeat(195)}.tiff`);
    const second = freeFileName(`${'k'.repeat(300)}.tiff`, (name) => name === long);
    expect(second).toBe(`${'k'.repeat(191)} (2).tiff`);
    // What is longer than an extension is none.
    expect(ownFileName(`kiln.${'x'.repeat(300)}`)).toHaveLength(200);
  });

  it('are what people call a file', () => {
    expect(['kiln.tar.gz', '.cube', 'kiln'].map(withoutExtension)).toEqual(['kiln.tar', '.cube', 'kiln']);
  });

  it('are as no other beside them, nor as one that came with them', () => {
    const name = freeFileNames([{ file: 'a.tif' }, { file: 'a (2).tif' }], [{ file: 'b.cube' }]);
    expect(['a.tif', 'a.tif', 'b.cube', 'c.tif', 'c.tif', 'x/c.tif', 'x/c.tif'].map(name)).toEqual([
      ...['a (3).tif', 'a (4).tif', 'b (2).cube', 'c.tif', 'c (2).tif', 'x_c.tif', 'x_c (2).tif']
    ]);
    expect(['', ''].map(freeFileNames())).toEqual(['picture', 'picture (2)']);
  });
});
