import { cmyk } from './cmyk';
import { derivedChannels } from './derived';
import { hsv } from './hsv';
import { lab } from './lab';
import { lch } from './lch';
import type { Channel, ColourModel, Encoding, ModelId } from './model';
import { inRoom, takePlane } from '../kernels/arena';
import { missesAny } from '../kernels/compare';
import type { Planes } from './planes';
import { rgb } from './rgb';

export { percent } from './model';
export type { Channel, ColourModel, Encoding, ModelId, ModelKernels, Readout } from './model';
export { labAndLuminance } from './derived';
export { newPlanes, type Planes } from './planes';

export const models: readonly ColourModel[] = [rgb, lab, cmyk, hsv, lch];

/** Every channel of every model, then the derived ones. */
export const channels: readonly Channel[] = [...models.flatMap((m) => m.channels), ...derivedChannels];

/** The ten that stand on the wall. */
export const wallModels: readonly ColourModel[] = [rgb, lab, cmyk];

/** @throws RangeError for an id that is no model */
export function modelOf(id: ModelId): ColourModel {
  const model = models.find((m) => m.id === id);
  if (!model) throw new RangeError(`“${id}” is no colour model.`);
  return model;
}

/** @throws RangeError for an id that is no channel */
export function channelOf(id: string): Channel {
  const channel = channels.find((c) => c.id === id);
  if (!channel) throw new RangeError(`“${id}” is no channel.`);
  return channel;
}

/** Fills `out` with the stored values of channel `id` for the first `n` samples of `rgb`. */
export function fillChannel(id: string, rgb: Planes, encoding: Encoding, out: Float32Array, n: number): void {
  const derived = derivedChannels.find((c) => c.id === id);
  if (derived) return derived.fill(rgb, encoding, out, n);
  const model = models.find((m) => m.channels.some((c) => c.id === id));
  if (!model) throw new RangeError(`“${id}” is no channel.`);
  inRoom(() => {
    const planes = Array.from({ length: model.planes }, () => takePlane(n));
    model.kernels[encoding].fromRgb(rgb, planes, n);
    out.set(planes[model.channels.findIndex((c) => c.id === id)].subarray(0, n));
  });
}

/** Fills `out[k]` with the channel `ids[k]`; a model that several of them belong to is computed once. */
export function fillChannels(
  ids: readonly string[],
  rgb: Planes,
  encoding: Encoding,
  out: Planes,
  n: number
): void {
  for (const model of models) {
    const wanted = ids.flatMap((id, k) => {
      const channel = model.channels.findIndex((c) => c.id === id);
      return channel < 0 ? [] : [{ k, channel }];
    });
    if (wanted.length === 0) continue;
    inRoom(() => {
      const planes = Array.from({ length: model.planes }, () => takePlane(n));
      model.kernels[encoding].fromRgb(rgb, planes, n);
      for (const { k, channel } of wanted) out[k].set(planes[channel].subarray(0, n));
    });
  }
  ids.forEach((id, k) => derivedChannels.find((c) => c.id === id)?.fill(rgb, encoding, out[k], n));
}

/** The same of a picture that may miss samples: some models would make numbers of them, here they stay missing. */
export function fillPresent(
  ids: readonly string[],
  rgb: Planes,
  encoding: Encoding,
  out: Planes,
  n: number
): void {
  fillChannels(ids, rgb, encoding, out, n);
  if (!missesAny(rgb, n)) return;
  const [r, g, b] = rgb;
  for (let i = 0; i < n; i++) {
    if (Number.isNaN(r[i] + g[i] + b[i])) for (const plane of out) plane[i] = Number.NaN;
  }
}

/** The stored value of every channel for one RGB colour, by channel id. */
export function readChannels(rgb: readonly number[], encoding: Encoding): Record<string, number> {
  const colour = rgb.map((v) => Float32Array.of(v));
  const out = new Float32Array(1);
  return Object.fromEntries(
    channels.map(({ id }) => {
      fillChannel(id, colour, encoding, out, 1);
      return [id, out[0]];
    })
  );
}

/** A stored value in the unit of its channel's readout. */
export const toReadout = ({ readout }: Channel, stored: number): number =>
  stored * readout.scale + readout.offset;

/** Every channel of one RGB colour, by its id: as stored (0…1 nominal), and in the unit that it is read out in. */
export function channelsAt(
  rgb: readonly number[],
  encoding: Encoding
): { readonly values: Record<string, number>; readonly readings: Record<string, number> } {
  const values = readChannels(rgb, encoding);
  return {
    values,
    readings: Object.fromEntries(
      channels.map((channel) => [channel.id, toReadout(channel, values[channel.id])])
    )
  };
}
