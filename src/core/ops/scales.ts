import { z } from 'zod';
import { fillChannel } from '../colour';
import { takePlane } from '../kernels/arena';
import { addTo } from '../mask/planes';
import { guidedReach, guidedSmooth } from '../spatial/guided';
import { layerResponse, layersReach, levelOf, MOST_LAYERS, throughLayers } from '../spatial/a-trous';
import { samplesOf } from '../measure/seen';
import { channelNoise } from './channel-noise';
import { shown } from './controls';
import { eachPlane } from './each-plane';
import { said, unit } from './fields';
import { defineOp, type Asked, type Solving } from './op';

const layer = z.strictObject({
  gain: z
    .number({ error: 'must be a number (1 is 100 %)' })
    .min(0, 'must be at least 0')
    .max(20, 'must be at most 20')
    .register(shown, { label: 'gain', unit: '%', slider: [0, 400], worth: 0.01 })
    .default(1),
  /** In σ of the noise that the layer has. */
  threshold: z
    .number({ error: 'must be a number (σ)' })
    .min(0, 'must be at least 0 σ')
    .max(100, 'must be at most 100 σ')
    .register(shown, { label: 'below, σ', unit: '', slider: [0, 10], step: 0.1, digits: 1 })
    .default(0)
});

const params = z.strictObject({
  layers: z
    .array(layer)
    .min(1, 'needs a scale at least')
    .max(MOST_LAYERS, `takes at most ${MOST_LAYERS} scales`)
    .default(Array.from({ length: 6 }, () => ({ gain: 1, threshold: 0 }))),
  /** Of what is coarser than all of them. */
  residual: z
    .number({ error: 'must be a number (1 is 100 %)' })
    .min(0, 'must be at least 0')
    .max(4, 'must be at most 4')
    .register(shown, { label: 'the rest', unit: '%', slider: [0, 200], worth: 0.01 })
    .default(1),
  /** What is coarser than `from` px is drawn towards its mean. */
  compress: z
    .strictObject({
      from: z
        .number({ error: 'must be a number (pixels)' })
        .min(2, 'must be at least 2 px')
        .max(256, 'must be at most 256 px')
        .register(shown, { label: 'from', unit: 'px', log: true, step: 1, digits: 0 })
        .default(32),
      amount: unit(-1, 1)
        .register(shown, { label: 'compress', unit: '%', slider: [0, 100], worth: 0.01 })
        .default(0.5)
    })
    .nullable()
    .default(null)
});
export type ScalesParams = z.infer<typeof params>;

/** Edges stronger than this stay with what is coarse, so that no halo grows beside them. */
const EDGE = 0.08;
/** From so many scales on, or from so many pixels, smaller levels tell it less truly. */
const [SETTLES_FROM, COARSE] = [6, 64];

interface ScalesNeed {
  readonly noise: boolean;
  readonly mean: boolean;
}
/** A channel each. */
interface ScalesSolution {
  readonly noise: readonly number[];
  readonly mean: readonly number[];
}
type ScalesCoefficients = ScalesParams & ScalesSolution;

const isPlain = ({ layers, residual }: ScalesParams): boolean =>
  residual === 1 && layers.every(({ gain, threshold }) => gain === 1 && threshold === 0);

/** A channel taken apart into layers of 1, 2, 4 … pixels, each shrunk at its threshold and multiplied, and put together again. */
export const scales = defineOp<ScalesParams, ScalesCoefficients, ScalesSolution, ScalesNeed>({
  id: 'scales',
  title: 'Scales',
  purpose: 'Raises, cleans or takes out what is of one size: grain, stars, filaments, glow',
  words: [
    'wavelet',
    'multiscale',
    'size',
    'structure',
    'detail',
    'nebula',
    'dust',
    'compress',
    'dynamic range',
    'bright core',
    'frequency separation'
  ],
  params,
  kind: 'plane',
  ownModel: () => 'rgb',
  reach(given, scale) {
    const { layers, compress } = given;
    return Math.max(
      isPlain(given) ? 0 : layersReach(Math.max(0, layers.length - levelOf(scale))),
      compress ? guidedReach(compress.from * scale) : 0
    );
  },
  settles: (given) =>
    (!isPlain(given) && given.layers.length >= SETTLES_FROM) ||
    (given.compress !== null && given.compress.from >= COARSE),
  sentence(given) {
    const { layers, compress, residual } = given;
    const changed = layers.filter(({ gain, threshold }) => gain !== 1 || threshold !== 0).length;
    const parts = [
      changed > 0 ? `${changed} of ${layers.length} scales` : '',
      residual !== 1 ? `the rest at ${said(100 * residual, 0)} %` : '',
      compress
        ? `coarser than ${said(compress.from, 0)} px compressed by ${said(100 * compress.amount, 0)} %`
        : ''
    ].filter(Boolean);
    return parts.length > 0 ? `By size: ${parts.join(', ')}` : 'By size: all as it is';
  },
  idle: (given) => isPlain(given) && given.compress === null,
  needs({ layers, compress }) {
    const noise = layers.some(({ threshold }) => threshold > 0);
    return noise || compress ? { noise, mean: compress !== null } : null;
  },
  *solve({ noise, mean }, asked): Solving<ScalesSolution> {
    return {
      noise: noise ? yield* channelNoise(asked) : [],
      mean: mean ? yield* meansOfChannels(asked) : []
    };
  },
  prepare: (given, _, solution) => ({ ...given, noise: solution?.noise ?? [], mean: solution?.mean ?? [] }),
  solved: ({ noise, mean }) => ({ noise, mean }),
  kernel(source, { layers, residual, compress, noise, mean }, out) {
    const n = source.width * source.height;
    const finer = levelOf(source.scale);
    const base = takePlane(n);
    const made = takePlane(n);
    const run = (plane: Float32Array, to: Float32Array, c: number): void => {
      if (isPlain({ layers, residual, compress })) made.set(plane.subarray(0, n));
      else {
        made.fill(0, 0, n);
        // What is finer than a sample of this level is not in it.
        const rest = throughLayers(plane, source, Math.max(0, layers.length - finer), (layer, number) => {
          const { gain, threshold } = layers[number + finer];
          add(made, layer, gain, threshold * (noise[c] ?? 0) * layerResponse(number + finer), n);
        });
        addTo(made, rest, residual, n);
      }
      if (compress) {
        guidedSmooth(plane, base, source, compress.from * source.scale, EDGE);
        const middle = mean[c] ?? 0;
        for (let i = 0; i < n; i++) made[i] -= compress.amount * (base[i] - middle);
      }
      to.set(made.subarray(0, n));
    };
    eachPlane(source, out, run, (c, other) => noise[c] === noise[other] && mean[c] === mean[other]);
  }
});

/** Adds a layer, drawn towards 0 by `threshold` (soft shrinkage, Donoho & Johnstone 1994), `gain` times. */
function add(to: Float32Array, layer: Float32Array, gain: number, threshold: number, n: number): void {
  if (threshold === 0) addTo(to, layer, gain, n);
  else
    for (let i = 0; i < n; i++) {
      const v = layer[i];
      if (v > threshold) to[i] += gain * (v - threshold);
      else if (v < -threshold) to[i] += gain * (v + threshold);
    }
}

function* meansOfChannels({ channels, encoding, analysis }: Asked): Solving<number[]> {
  const { planes, n } = samplesOf(yield* analysis());
  const plane = new Float32Array(n);
  return channels.map(({ id }) => {
    fillChannel(id, planes, encoding, plane, n);
    let sum = 0;
    for (let i = 0; i < n; i++) sum += plane[i];
    return n > 0 ? sum / n : 0;
  });
}
