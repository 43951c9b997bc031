/** A repeatable stream of numbers 0…1 for tests, sample data and benches (mulberry32). */
export function randomStream(seed: number): () => number {
  let state = seed | 0;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** A normally scattered value of σ = 1 out of a stream of even ones (Box & Muller 1958). */
export const scattered = (random: () => number): number =>
  Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());

/** The `index`th number, from 1, of van der Corput's sequence of a base: several bases spread places evenly (Halton 1960). */
export function haltonAt(index: number, base: number): number {
  let sum = 0;
  for (let left = index, part = 1 / base; left > 0; left = Math.floor(left / base), part /= base)
    sum += (left % base) * part;
  return sum;
}
