import { asTheyStand, percent, type ColourModel } from '../model';
import type { Planes } from '../planes';

function copy(source: Planes, out: Planes, n: number): void {
  for (let c = 0; c < 3; c++) if (out[c] !== source[c]) out[c].set(source[c].subarray(0, n));
}

/** RGB: the values the picture is kept in. */
export const rgb: ColourModel = {
  id: 'rgb',
  title: 'RGB',
  channels: [
    { id: 'rgb.r', letter: 'r', sign: 'R', name: 'red', readout: percent, light: true },
    { id: 'rgb.g', letter: 'g', sign: 'G', name: 'green', readout: percent, light: true },
    { id: 'rgb.b', letter: 'b', sign: 'B', name: 'blue', readout: percent, light: true }
  ],
  planes: 3,
  kernels: asTheyStand({ fromRgb: copy, toRgb: copy })
};
