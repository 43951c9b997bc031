import { percent, type ColourModel } from '../model';

/** Coded RGB: the values the picture is kept in. */
export const rgb: ColourModel = {
  id: 'rgb',
  title: 'RGB',
  channels: [
    { id: 'rgb.r', letter: 'r', sign: 'R', name: 'red', readout: percent },
    { id: 'rgb.g', letter: 'g', sign: 'G', name: 'green', readout: percent },
    { id: 'rgb.b', letter: 'b', sign: 'B', name: 'blue', readout: percent }
  ],
  planes: 3,
  fromRgb(source, out, n) {
    for (let c = 0; c < 3; c++) if (out[c] !== source[c]) out[c].set(source[c].subarray(0, n));
  },
  toRgb(values, out, n) {
    for (let c = 0; c < 3; c++) if (out[c] !== values[c]) out[c].set(values[c].subarray(0, n));
  }
};
