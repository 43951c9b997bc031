import { z } from 'zod';
import { eitherWay, simd, takeTable } from '../../kernels/arena';
import { project, type Geometry } from '../../raster/geometry';
import type { MaskGround } from '../ground';
import { defineSource } from './source';

const point = z.tuple([z.number(), z.number()]);
const schema = z.strictObject({
  kind: z.literal('ramp'),
  shape: z.enum(['straight', 'round']).default('straight'),
  from: point,
  to: point
});
type Prepared = z.infer<typeof schema> & { geometry: Geometry };

/** 1 at `from`, straight down to 0 at `to`; round: 1 in the middle `from`, 0 as far from it as `to` is. */
export const ramp = defineSource<typeof schema, Prepared>({
  kind: 'ramp',
  title: 'Ramp',
  schema,
  bound: 'a ramp',
  fresh: ({ width, height }) => ({
    ...{ kind: 'ramp', shape: 'straight' },
    from: [width / 2, height * 0.15],
    to: [width / 2, height * 0.85]
  }),
  words: ({ shape }) => (shape === 'round' ? 'round ramp' : 'straight ramp'),
  prepare: (source, { geometry }) => ({ ...source, geometry }),
  fill: fillRamp
});

function fillRamp(
  { shape, from, to, geometry }: Prepared,
  { x, y, width, height, scale }: MaskGround,
  out: Float32Array
): void {
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
  const length2 = Math.max(1e-9, dx * dx + dy * dy);
  eitherWay(
    [out],
    (to) => {
      const map = takeTable(Float64Array.of(...geometry.toFrame, ...from, dx, dy, length2));
      simd.rampPlane(to, x, y, width, height, scale, map, Number(shape === 'round'));
    },
    () => {
      for (let v = 0, i = 0; v < height; v++) {
        for (let u = 0; u < width; u++, i++) {
          const p = project(geometry.toFrame, { x: (x + u + 0.5) / scale, y: (y + v + 0.5) / scale });
          const [px, py] = [p.x - from[0], p.y - from[1]];
          out[i] =
            1 -
            (shape === 'round' ? Math.sqrt((px * px + py * py) / length2) : (px * dx + py * dy) / length2);
        }
      }
    }
  );
}
