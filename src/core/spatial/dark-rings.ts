import { inRoom, takePlane } from '../kernels/arena';
import { extremes } from './extremes';
import type { Field } from './field';
import { gaussianBlur, gaussianReach } from './gaussian';
import { SIGMA_WIDTH, type PointSpread } from './point-spread';

/** Where light falls off by so many σ of its noise within a ring's width, rings are to be expected: from none to all. */
const [NO_RING, RING] = [6, 12];
/** Of stars that are fainter still, what noise does to a ring is let be: up to so many σ. */
const [LET_BE, MOST_LET_BE] = [8, 0.5];
/** What rises so many σ over the ground is a star's. */
const STARRY = 5;
/** How wide rings are, and how far about a star its foot still matters, in widths of the point-spread. */
const [RING_WIDTH, FOOT_WIDTH] = [2, 4];

const footReach = ({ fwhm }: PointSpread): number => Math.ceil(FOOT_WIDTH * fwhm);
/** σ of what a ring is taken for, about which a star's light lies. */
const aboutStar = ({ fwhm }: PointSpread): number => fwhm * FOOT_WIDTH * 0.5;

/** How many samples around one `holdRings` depends on. */
export const ringsReach = (psf: PointSpread): number =>
  gaussianReach(psf.fwhm / SIGMA_WIDTH) + footReach(psf) + 2 * gaussianReach(aboutStar(psf));

/**
 * Raises what became darker than anything about it was, where light falls off steeply: dark rings about stars. What is filled in there
 * is taken off the star, whose light they were, so that none is added.
 * @param came the light before it was sharpened
 * @param made the light after, which is changed
 * @param rings how much of them is held, 0…1
 * @param sigma of the noise of the light that came in
 * @param held gets how strongly what is too dark is raised, 0…1, where nothing stronger stands
 */
export function holdRings(
  came: Float32Array,
  made: Float32Array,
  field: Field,
  psf: PointSpread,
  rings: number,
  sigma: number,
  held: Float32Array | null = null
): void {
  const n = field.width * field.height;
  inRoom(() => {
    const [soft, ground, low, high, filled] = Array.from({ length: 5 }, () => takePlane(n));
    filled.fill(0, 0, n);
    gaussianBlur(came, soft, field, psf.fwhm / SIGMA_WIDTH);
    extremes(soft, ground, high, field, footReach(psf));
    extremes(soft, low, high, field, Math.ceil(RING_WIDTH * psf.fwhm));
    for (let i = 0; i < n; i++) {
      const steep = (high[i] - low[i]) / Math.max(sigma, 1e-12);
      if (!(steep > NO_RING)) continue;
      const under = ground[i] - sigma * Math.min(MOST_LET_BE, LET_BE / steep) - made[i];
      if (!(under > 0)) continue;
      const near = Math.min(1, (steep - NO_RING) / (RING - NO_RING));
      const strength = rings * near * near * (3 - 2 * near);
      filled[i] = strength * under;
      if (held && strength > held[i]) held[i] = strength;
    }
    for (let i = 0; i < n; i++) {
      made[i] += filled[i];
      high[i] = Math.max(0, made[i] - ground[i] - STARRY * sigma);
    }
    gaussianBlur(high, low, field, aboutStar(psf));
    for (let i = 0; i < n; i++) filled[i] = low[i] > 0 ? filled[i] / low[i] : 0;
    gaussianBlur(filled, soft, field, aboutStar(psf));
    for (let i = 0; i < n; i++) made[i] -= high[i] * Math.min(1, soft[i]);
  });
}
