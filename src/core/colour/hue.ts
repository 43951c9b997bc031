const TURN = 2 * Math.PI;

/** atan of 0…1 within 2e-6 (Abramowitz & Stegun 4.4.49, refitted). */
const atan01 = (x: number): number => {
  const s = x * x;
  return (
    x *
    (0.9999772599 +
      s * (-0.3326233406 + s * (0.1935435346 + s * (-0.1164328715 + s * (0.0526533215 + s * -0.0117212)))))
  );
};

/** The direction of (a, b) in turns, 0…1, within 1e-6 of a turn; 0 without colour. */
export function hueTurn(a: number, b: number): number {
  const [x, y] = [a < 0 ? -a : a, b < 0 ? -b : b];
  if (x === 0 && y === 0) return 0;
  let angle = x >= y ? atan01(y / x) : TURN / 4 - atan01(x / y);
  if (a < 0) angle = TURN / 2 - angle;
  if (b < 0) angle = -angle;
  const turn = angle / TURN;
  return turn < 0 ? turn + 1 : turn;
}
