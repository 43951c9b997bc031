import { DocumentError } from '../document/problem';
import type { HeadShape } from './head';

type Part = HeadShape & { readonly name: string };

/**
 * The shape of a head whose pictures lie on each other pixel by pixel.
 * @throws DocumentError naming two that are of different size or encoding
 */
export function commonShape(parts: readonly Part[]): HeadShape {
  const [first] = parts;
  for (const part of parts) {
    if (part.width !== first.width || part.height !== first.height) {
      throw new DocumentError(
        `The picture “${first.name}” is ${first.width} × ${first.height} pixels and “${part.name}” ${part.width} × ${part.height}: only pictures of one size make a picture together.`
      );
    }
    if (part.encoding !== first.encoding) {
      throw new DocumentError(
        `The picture “${first.name}” is ${first.encoding} and “${part.name}” ${part.encoding}: only pictures that are coded alike make a picture together.`
      );
    }
  }
  const { width, height, encoding } = first;
  return {
    ...{ width, height, encoding },
    levels: Math.min(...parts.map(({ levels }) => levels)),
    alpha: parts.some(({ alpha }) => alpha),
    mayMiss: parts.some(({ mayMiss }) => mayMiss)
  };
}

/** What is seen of a picture made of several is seen in each of them: the least alpha. */
export function leastAlpha(alphas: readonly (Float32Array | null)[], out: Float32Array): void {
  out.fill(1);
  for (const alpha of alphas) {
    if (alpha) for (let i = 0; i < out.length; i++) out[i] = Math.min(out[i], alpha[i]);
  }
}
