import { asTheyStand, degrees, percent, type ColourModel } from '../model';

/**
 * Hue, saturation and value of RGB (Smith 1978): the hexcone. Hue is 0 where there is no colour;
 * black has saturation 0. Values above 1 keep their hue; where the largest is not positive, saturation is 0.
 */
export const hsv: ColourModel = {
  id: 'hsv',
  title: 'HSV',
  channels: [
    { id: 'hsv.h', letter: 'h', sign: 'H', name: 'hue', readout: degrees },
    { id: 'hsv.s', letter: 's', sign: 'S', name: 'saturation', readout: percent },
    { id: 'hsv.v', letter: 'v', sign: 'V', name: 'value', readout: percent, light: true }
  ],
  planes: 3,
  kernels: asTheyStand({
    fromRgb([red, green, blue], [h, s, v], n) {
      for (let i = 0; i < n; i++) {
        const r = red[i];
        const g = green[i];
        const b = blue[i];
        const high = Math.max(r, g, b);
        const range = high - Math.min(r, g, b);
        let sector = 0;
        if (range > 0) {
          if (high === r) sector = (g - b) / range;
          else if (high === g) sector = (b - r) / range + 2;
          else sector = (r - g) / range + 4;
        }
        const hue = sector / 6;
        h[i] = hue < 0 ? hue + 1 : hue;
        s[i] = high > 0 ? range / high : 0;
        v[i] = high;
      }
    },
    toRgb([h, s, v], [red, green, blue], n) {
      for (let i = 0; i < n; i++) {
        const hue = (h[i] - Math.floor(h[i])) * 6;
        const value = v[i];
        const range = value * s[i];
        red[i] = value - range * fall(hue + 5);
        green[i] = value - range * fall(hue + 3);
        blue[i] = value - range * fall(hue + 1);
      }
    }
  })
};

/** How far a primary has fallen from the value at hue sector `k` (0…6 around the circle). */
function fall(k: number): number {
  const sector = k % 6;
  return Math.max(0, Math.min(sector, 4 - sector, 1));
}
