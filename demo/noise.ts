const fade = (t: number): number => t * t * (3 - 2 * t);

/** Value noise on a lattice (Perlin 1985, with hashed corner values), −1…1, smooth. */
export function noise(x: number, y: number, z = 0): number {
  const xi = Math.floor(x);
  const yi = Math.floor(y);
  const zi = Math.floor(z);
  const u = fade(x - xi);
  const v = fade(y - yi);
  const near = sheet(xi, yi, zi, u, v);
  const w = fade(z - zi);
  return w === 0 ? near : near + (sheet(xi, yi, zi + 1, u, v) - near) * w;
}

/** The noise on one plane of the lattice. */
function sheet(xi: number, yi: number, k: number, u: number, v: number): number {
  const [near, far] = [corner(xi, yi, k), corner(xi, yi + 1, k)];
  const a = near + (corner(xi + 1, yi, k) - near) * u;
  const b = far + (corner(xi + 1, yi + 1, k) - far) * u;
  return a + (b - a) * v;
}

function corner(x: number, y: number, z: number): number {
  let h = (Math.imul(x, 374761393) + Math.imul(y, 668265263) + Math.imul(z, 1274126177)) | 0;
  h = Math.imul(h ^ (h >>> 13), 1274126177);
  return ((h ^ (h >>> 16)) >>> 0) / 2147483648 - 1;
}

/** Octaves of noise, each half as strong and twice as fine. */
export function fractal(x: number, y: number, z: number, octaves: number): number {
  let sum = 0;
  let strength = 0.5;
  for (let o = 0; o < octaves; o++, strength /= 2) {
    const f = 2 ** o;
    sum += strength * noise(x * f + 17 * o, y * f, z * f);
  }
  return sum;
}
