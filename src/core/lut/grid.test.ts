import { encode } from 'fast-png';
import { describe, expect, it } from 'vitest';
import { readTable } from '../files/table';
import { gridPicture } from './grid';
import { throughTable } from './table';

/** Samples of a picture of a table of level 8: 64³ nodes, as its rule says, with red and blue exchanged. */
function picturedSamples(side = 512): Uint16Array {
  const data = new Uint16Array(3 * side * side);
  for (let i = 0; i < side * side; i++) {
    const [r, g, b] = [i % 64, Math.floor(i / 64) % 64, Math.floor(i / 4096)].map((v) =>
      Math.round((v * 65535) / 63)
    );
    data.set([b, g, r], 3 * i);
  }
  return data;
}
const picture = (): Uint8Array =>
  encode({ width: 512, height: 512, data: picturedSamples(), channels: 3, depth: 16 });

describe('a picture of a table', () => {
  it('is read as the change that it has been through', async () => {
    const table = await readTable(picture());
    expect(table.cube).toMatchObject({ size: 64, low: [0, 0, 0], high: [1, 1, 1] });
    const planes = [0.9, 0.42, 0.05].map((v) => Float32Array.of(v));
    throughTable(table, planes, planes, 1, 'tetrahedral');
    [0.05, 0.42, 0.9].forEach((v, c) => expect(planes[c][0]).toBeCloseTo(v, 4));
  });

  it('untouched holds every node, red running fastest, and is a table that changes nothing', async () => {
    const { width, height, samples } = gridPicture(null, 8);
    expect([width, height]).toEqual([512, 512]);
    // By its rule: pixel (63, 0) is full red, pixel 64 the first of green, pixel 4096 the first of blue.
    expect([...samples.subarray(3 * 63, 3 * 63 + 3)]).toEqual([65535, 0, 0]);
    expect([...samples.subarray(3 * 64, 3 * 64 + 3)]).toEqual([0, Math.round(65535 / 63), 0]);
    expect([...samples.subarray(3 * 4096, 3 * 4096 + 3)]).toEqual([0, 0, Math.round(65535 / 63)]);
    const table = await readTable(
      encode({ width, height, data: new Uint16Array(samples), channels: 3, depth: 16 })
    );
    const planes = [0.9, 0.42, 0.05].map((v) => Float32Array.of(v));
    throughTable(table, planes, planes, 1, 'trilinear');
    [0.9, 0.42, 0.05].forEach((v, c) => expect(planes[c][0]).toBeCloseTo(v, 4));
  });

  it('is written as it is read', async () => {
    const table = await readTable(picture());
    expect(Buffer.from(gridPicture(table, 8).samples).equals(Buffer.from(picturedSamples()))).toBe(true);
    expect(gridPicture(table, 12).width).toBe(1728);
  });

  it('of another size or without colour is refused', async () => {
    const small = encode({ width: 8, height: 8, data: new Uint8Array(192), channels: 3, depth: 8 });
    await expect(readTable(small)).rejects.toThrow(
      /8 × 8 pixels, and a picture of a table is .* 512 × 512 or 1728 × 1728/
    );
    const grey = encode({ width: 512, height: 512, data: new Uint8Array(512 * 512), channels: 1, depth: 8 });
    await expect(readTable(grey)).rejects.toThrow(/not in colour/);
  });
});
