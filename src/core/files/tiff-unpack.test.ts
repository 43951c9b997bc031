import { deflateSync } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import { fewestPacked, unpacker } from './tiff-unpack';

/** Unpacked in bands of three bytes. */
async function unpack(compression: number, packed: readonly number[], length: number): Promise<number[]> {
  const out: number[] = [];
  for await (const band of unpacker(compression)(Uint8Array.from(packed), length, 3)) out.push(...band);
  return out;
}

/** Codes of given widths, from the high bits, as LZW stores them. */
function bits(codes: readonly (readonly [code: number, width: number])[]): number[] {
  const text = codes.map(([code, width]) => code.toString(2).padStart(width, '0')).join('');
  return Array.from({ length: Math.ceil(text.length / 8) }, (_, i) =>
    parseInt(text.slice(8 * i, 8 * i + 8).padEnd(8, '0'), 2)
  );
}

describe('PackBits', () => {
  it('unpacks the worked example of the format’s author', async () => {
    const packed = [0xfe, 0xaa, 0x02, 0x80, 0x00, 0x2a, 0xfd, 0xaa, 0x03, 0x80, 0x00, 0x2a, 0x22, 0xf7, 0xaa];
    const wanted = [
      ...[0xaa, 0xaa, 0xaa, 0x80, 0x00, 0x2a, 0xaa, 0xaa, 0xaa, 0xaa, 0x80, 0x00, 0x2a, 0x22],
      ...Array<number>(10).fill(0xaa)
    ];
    expect(await unpack(32773, packed, 24)).toEqual(wanted);
  });

  it('passes over the code that does nothing, and refuses an early end', async () => {
    expect(await unpack(32773, [0x80, 0x00, 0x07], 1)).toEqual([7]);
    await expect(unpack(32773, [0xfe], 3)).resolves.toHaveLength(3);
    await expect(unpack(32773, [0x00, 0x07], 5)).rejects.toThrow('ends before');
  });
});

describe('LZW', () => {
  it('unpacks the worked example of TIFF 6.0, section 13', async () => {
    const codes = [256, 7, 258, 8, 8, 258, 6, 6, 257].map((code) => [code, 9] as const);
    expect(await unpack(5, bits(codes), 9)).toEqual([7, 7, 7, 8, 8, 7, 7, 6, 6]);
  });

  it('knows a string that is only just being made', async () => {
    // 1, then 258 = 1 1 before it is in the table, then 259 = 1 1 1 likewise.
    expect(
      await unpack(
        5,
        bits([
          [256, 9],
          [1, 9],
          [258, 9],
          [259, 9]
        ]),
        6
      )
    ).toEqual([1, 1, 1, 1, 1, 1]);
  });

  it('widens its codes one early', async () => {
    // 254 literals fill the table up to 510, and the next code has 10 bits.
    const literals = Array.from({ length: 254 }, (_, i) => [i % 256, 9] as const);
    const found = await unpack(5, bits([[256, 9], ...literals, [99, 10]]), 255);
    expect(found.slice(-2)).toEqual([253, 99]);
  });

  it('refuses codes from nowhere and an early end', async () => {
    await expect(
      unpack(
        5,
        bits([
          [256, 9],
          [300, 9]
        ]),
        4
      )
    ).rejects.toThrow('makes no sense');
    await expect(
      unpack(
        5,
        bits([
          [256, 9],
          [1, 9],
          [257, 9]
        ]),
        4
      )
    ).rejects.toThrow('ends before');
  });
});

describe('the others', () => {
  it('unpack Deflate as zlib packs it', async () => {
    const data = Array.from({ length: 500 }, (_, i) => (i * i) % 251);
    expect(await unpack(8, [...deflateSync(Uint8Array.from(data))], 500)).toEqual(data);
    await expect(unpack(8, [...deflateSync(Uint8Array.from(data)).subarray(0, 60)], 500)).rejects.toThrow(
      'ends before'
    );
  });

  it('are refused by number', () => expect(() => unpacker(7)).toThrow('TIFF number 7'));

  it('never hold more than they could', () => {
    expect(fewestPacked(1, 1000)).toBe(1000);
    expect(fewestPacked(32773, 1280)).toBeLessThanOrEqual(20);
    expect(fewestPacked(8, 1032_000)).toBeLessThanOrEqual(1000);
  });
});
