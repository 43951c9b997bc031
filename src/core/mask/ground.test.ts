import { expect, it } from 'vitest';
import { fillChannel } from '../colour';
import { inArena, inRoom, takePlane } from '../kernels/arena';
import { randomStream } from '../random';
import { wholeField } from '../spatial/field';
import { MaskGround } from './ground';

const N = 1003;

it.each([
  [['lum'], ['lum', 'lab.a']],
  [['lum'], ['lab.a', 'lum']],
  [[], ['lab.a', 'lum']]
])(
  'gives each channel as it is by itself, of masks that will ask for %j, asked in the order %j',
  (told, order) => {
    const random = randomStream(43);
    inRoom(
      () => {
        const rgb = Array.from({ length: 3 }, () => takePlane(N));
        for (const plane of rgb) plane.forEach((_, i) => (plane[i] = 1.5 * random() - 0.2));
        expect(inArena(rgb)).toBe(true);
        const ground = new MaskGround(
          rgb,
          'coded',
          wholeField({ x: 0, y: 0, width: N, height: 1 }),
          1,
          [],
          told
        );
        for (const id of order) {
          const wanted = takePlane(N);
          fillChannel(id, rgb, 'coded', wanted, N);
          expect(ground.channel(id).subarray(0, N)).toEqual(wanted.subarray(0, N));
        }
      },
      N * 4 * 24
    );
  }
);
