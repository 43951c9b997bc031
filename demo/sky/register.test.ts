import { describe, expect, it } from 'vitest';
import { parseDocument, Resolver } from '../../src/core/document';
import type { Registration } from '../../src/core/ops/register';
import { evaluate } from '../../src/core/path/evaluate';
import { Planner } from '../../src/core/path/planner';
import type { Plan } from '../../src/core/path/plan';
import type { Frame } from '../../src/core/raster/frame';
import { floatFrame } from '../../src/core/testing';
import { expose } from './expose';
import { sessionOf } from './frames';

/** A frame brought onto another by its stars, against how its maker moved it. */

const [WIDTH, HEIGHT] = [1200, 800];
const [S, H, O] = sessionOf('lantern', WIDTH, HEIGHT).exposures;

interface Moved {
  readonly turn: number;
  readonly scale: number;
  readonly x: number;
  readonly y: number;
}

/** Where the sky of a place of the first frame stands in one that is moved about its middle. */
function placed({ turn, scale, x: dx, y: dy }: Moved, x: number, y: number): [number, number] {
  const angle = (turn * Math.PI) / 180;
  const [u, v] = [x - WIDTH / 2, y - HEIGHT / 2];
  const [c, s] = [scale * Math.cos(angle), scale * Math.sin(angle)];
  return [c * u - s * v + WIDTH / 2 + dx, s * u + c * v + HEIGHT / 2 + dy];
}

const framed = (samples: Uint16Array): Frame =>
  floatFrame(
    WIDTH,
    HEIGHT,
    Float32Array.from({ length: 3 * samples.length }, (_, i) => samples[Math.floor(i / 3)] / 65535)
  );

/** The same sky through another filter, its stars and its light moved; places of samples count from their middles. */
function movedFrame(moved: Moved, from = O): Frame {
  const stars = from.stars.map((star) => {
    const [x, y] = placed(moved, star.x + 0.5, star.y + 0.5);
    return { ...star, x: x - 0.5, y: y - 0.5 };
  });
  const back = { turn: -moved.turn, scale: 1 / moved.scale, x: 0, y: 0 };
  const glow = (x: number, y: number): number => from.glow(...placed(back, x - moved.x, y - moved.y));
  return framed(expose({ ...from, stars, glow }, WIDTH, HEIGHT).samples);
}

const document = parseDocument({
  ...{ kromba: 1, kind: 'document', name: 'Two' },
  frames: ['h', 'o'].map((id) => ({ id, name: id, file: `${id}.fits`, encoding: 'linear' })),
  pictures: [
    {
      ...{ id: 'o', name: 'O', head: { kind: 'frame', frame: 'o' } },
      steps: [{ id: 'r', op: 'register', params: { to: { picture: 'h' } } }]
    },
    { id: 'h', name: 'H', head: { kind: 'frame', frame: 'h' }, steps: [] }
  ]
});
const first = framed(expose(H, WIDTH, HEIGHT).samples);

function planned(second: Frame): Plan {
  const source = new Resolver(document, { h: 'h', o: 'o' }).picture({ picture: 'o' })!;
  return new Planner((id) => (id === 'h' ? first : second)).plan(source);
}
const found = ({ steps: [{ op, coefficients }] }: Plan): Registration =>
  op.solved!(coefficients) as Registration;

describe('a frame is brought onto another', () => {
  it.each([
    ['a little moved', { turn: 0.4, scale: 1, x: 6.37, y: -3.81 }],
    ['turned and through another glass', { turn: -31, scale: 1.07, x: -40.2, y: 22.6 }],
    ['upside down, after the telescope went over', { turn: 179.2, scale: 0.998, x: 11.4, y: 8.15 }]
  ])('%s: within 0.1 px over the frame', (_, moved) => {
    const { turn, scale, x, y, stars } = found(planned(movedFrame(moved)));
    const squares: number[] = [];
    for (let py = 0; py <= HEIGHT; py += 100)
      for (let px = 0; px <= WIDTH; px += 100) {
        const [bx, by] = placed({ turn, scale, x, y }, ...placed(moved, px, py));
        squares.push((bx - px) ** 2 + (by - py) ** 2);
      }
    expect(Math.sqrt(squares.reduce((a, b) => a + b, 0) / squares.length)).toBeLessThan(0.1);
    expect(stars).toBeGreaterThan(15);
  });

  it('its pixels lie where the other’s do, in one resampling, and what it does not reach is missing', () => {
    const moved = { turn: 1.5, scale: 1, x: 9.5, y: -12.25 };
    const plan = planned(movedFrame(moved));
    const { planes } = evaluate(plan, 0, { x: 0, y: 0, width: WIDTH, height: HEIGHT });
    const still = expose(O, WIDTH, HEIGHT).clean;
    // The brightest stars that do not fill a sample stand on the same samples.
    const bright = O.stars
      .filter(({ x, y }) => x > 60 && y > 60 && x < WIDTH - 60 && y < HEIGHT - 60)
      .sort((a, b) => b.flux - a.flux)
      .slice(20, 60);
    const peak = (of: ArrayLike<number>, cx: number, cy: number): [number, number] => {
      let [best, bx, by] = [-Infinity, 0, 0];
      for (let y = Math.round(cy) - 2; y <= Math.round(cy) + 2; y++)
        for (let x = Math.round(cx) - 2; x <= Math.round(cx) + 2; x++)
          if (of[y * WIDTH + x] > best) [best, bx, by] = [of[y * WIDTH + x], x, y];
      return [bx, by];
    };
    const same = bright.filter(({ x, y }) => {
      const [a, b] = [peak(planes[0], x, y), peak(still, x, y)];
      return Math.abs(a[0] - b[0]) <= 1 && Math.abs(a[1] - b[1]) <= 1;
    });
    expect(same.length).toBeGreaterThanOrEqual(0.95 * bright.length);
    // Lower left, where the moved frame has no light.
    const [x, y] = placed(moved, 0.5, 0.5);
    expect(Number.isNaN(planes[0][0])).toBe(x < 0 || y < 0 || x > WIDTH || y > HEIGHT);
    expect(planes[0].some(Number.isNaN)).toBe(true);
  });

  it('of another field it is refused, with what was found', () => {
    const other = { ...S, stars: sessionOf('quern', WIDTH, HEIGHT).exposures[0].stars };
    expect(() => planned(framed(expose(other, WIDTH, HEIGHT).samples))).toThrow(
      /can’t be brought onto the other picture: of its \d+ brightest stars and the other’s \d+ too few/
    );
    const dark = framed(new Uint16Array(WIDTH * HEIGHT).fill(500));
    expect(() => planned(dark)).toThrow(/of its 0 brightest stars/);
  });
});
