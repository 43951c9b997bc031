import { lab } from '../lab';
import { degrees, type ColourModel, type ModelKernels } from '../model';

const TURN = 2 * Math.PI;

/** Polar places on the plane of a and b, by the kernels that lead to it. */
const over = ({ fromRgb, toRgb }: ModelKernels): ModelKernels => ({
  fromRgb(rgb, [c, h, l], n) {
    fromRgb(rgb, [l, c, h], n);
    for (let i = 0; i < n; i++) {
      const a = (c[i] - 0.5) * 256;
      const b = (h[i] - 0.5) * 256;
      const hue = Math.atan2(b, a) / TURN;
      c[i] = Math.hypot(a, b) / 128;
      h[i] = hue < 0 ? hue + 1 : hue;
    }
  },
  toRgb([c, h, l], [red, green, blue], n) {
    for (let i = 0; i < n; i++) {
      const chroma = c[i] / 2;
      const angle = h[i] * TURN;
      const lightness = l[i];
      red[i] = lightness;
      green[i] = chroma * Math.cos(angle) + 0.5;
      blue[i] = chroma * Math.sin(angle) + 0.5;
    }
    toRgb([red, green, blue], [red, green, blue], n);
  }
});

/** Chroma and hue of CIE LAB, stored as C/128 and hue/360; lightness rides along as a third plane. */
export const lch: ColourModel = {
  id: 'lch',
  title: 'LCh',
  channels: [
    {
      id: 'lch.c',
      letter: 'c',
      sign: 'C*',
      name: 'chroma',
      readout: { scale: 128, offset: 0, unit: '', digits: 1 }
    },
    { id: 'lch.h', letter: 'h', sign: 'h', name: 'hue of LAB', readout: degrees }
  ],
  planes: 3,
  kernels: { coded: over(lab.kernels.coded), linear: over(lab.kernels.linear) }
};
