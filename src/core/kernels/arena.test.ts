import { afterEach, describe, expect, it, vi } from 'vitest';
import { failWhereShort } from './fail-where-short';
import {
  eitherWay,
  giveRoomBack,
  inArena,
  inRoom,
  onShort,
  simd,
  takePlane,
  takeTable,
  whereRoom
} from './arena';

afterEach(failWhereShort);

/** More than the memory holds as it begins. */
const MUCH = 2 ** 26;

describe('the kernels’ memory', () => {
  it('is given back when the work ends, and when it throws', () => {
    const first = inRoom(() => takePlane(64).byteOffset, 1024);
    expect(inRoom(() => takePlane(64).byteOffset, 1024)).toBe(first);
    expect(() =>
      inRoom(() => {
        takePlane(64);
        throw new Error('in the middle');
      }, 1024)
    ).toThrow('in the middle');
    expect(inRoom(() => takePlane(64).byteOffset, 1024)).toBe(first);
    inRoom(() => {
      const outer = takePlane(16).byteOffset;
      const inner = inRoom(() => takePlane(16).byteOffset);
      expect(inner).toBeGreaterThan(outer);
      expect(inRoom(() => takePlane(16).byteOffset)).toBe(inner);
    }, 1024);
  });

  it('takes nothing where no room is open: it would never be given back, and the memory could not grow', () => {
    expect(inArena([takePlane(64)])).toBe(false);
    const more = simd.memory.buffer.byteLength / 4 + 64;
    inRoom(() => expect(inArena([takePlane(more)])).toBe(true), 4 * more);
  });

  it('is given back once for a while nothing needed as much, and kernels go on in what there is', () => {
    const bytes = (): number => simd.memory.buffer.byteLength;
    const large = 160 * 2 ** 20;
    inRoom(() => takePlane(large / 4), large);
    expect(bytes()).toBeGreaterThan(large);
    // Needed since it was last asked for.
    giveRoomBack();
    expect(bytes()).toBeGreaterThan(large);
    inRoom(() => {
      takePlane(100);
      expect(giveRoomBack()).toBe(true);
      expect(bytes()).toBeGreaterThan(large);
    });
    giveRoomBack();
    expect(giveRoomBack()).toBe(false);
    expect(bytes()).toBeLessThan(large / 4);
    inRoom(() => {
      const [a, b] = [takePlane(8).fill(2), takePlane(8).fill(3)];
      eitherWay(
        [a, b],
        (to, from) => simd.addPlane(to, from, 8, 2),
        () => expect.fail('they lie in the memory of the kernels')
      );
      expect([...a]).toEqual(Array(8).fill(8));
    }, 1024);
  });

  it('tells where what was reckoned with does not fit; tests fail by it', () => {
    const short = vi.fn();
    onShort(short);
    const much = simd.memory.buffer.byteLength / 4 + MUCH;
    inRoom(() => expect(inArena([takePlane(much)])).toBe(false), 1024);
    expect(short).toHaveBeenCalledTimes(1);
    // What has to make do with what there is is no mistake.
    inRoom(() => takePlane(much));
    expect(short).toHaveBeenCalledTimes(1);
    failWhereShort();
    expect(() => inRoom(() => takePlane(much), 1024)).toThrow(/no room/);
  });

  it('lets a kernel go its plain way where its planes lie elsewhere, or its tables do not fit', () => {
    const fast = vi.fn((...at: number[]) => at.length);
    expect(eitherWay([new Float32Array(4)], fast, () => -1)).toBe(-1);
    expect(fast).not.toHaveBeenCalled();
    inRoom(() => {
      expect(eitherWay([takePlane(4), takePlane(4)], fast, () => 0)).toBe(2);
      expect(eitherWay([takePlane(4), new Float32Array(4)], fast, () => -1)).toBe(-1);
    }, 1024);
    onShort(() => undefined);
    const large = new Float32Array(simd.memory.buffer.byteLength / 4 + 1);
    inRoom(
      () =>
        expect(
          eitherWay(
            [takePlane(4)],
            () => takeTable(large),
            () => -1
          )
        ).toBe(-1),
      1024
    );
    expect(() =>
      whereRoom(
        () => {
          throw new RangeError('of its own');
        },
        () => 0
      )
    ).toThrow('of its own');
  });
});
