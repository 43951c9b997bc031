import { channelOf, fillChannel } from '../colour';
import { closeArena, inArena, openArena, simd, takeBytes, takePlane } from '../kernels/arena';
import type { Raster } from '../raster/raster';

/** What of a picture is shown: its colours, or one channel as a grey photograph. */
export type View = 'colour' | { readonly channel: string };

/** The raster as 8-bit RGBA for the screen: clamped, missing samples black, ink as it lies on paper. */
export function screenPixels(raster: Raster, view: View): Uint8ClampedArray<ArrayBuffer> {
  const n = raster.width * raster.height;
  const pixels = new Uint8ClampedArray(4 * n);
  const mark = openArena(0);
  const planes = view === 'colour' ? raster.planes : channelPlanes(raster, view.channel, n);
  const room = inArena(planes, raster.alpha ? [raster.alpha] : []) ? takeBytes(4 * n) : null;
  if (room) {
    const [red, green, blue] = planes.map((p) => p.byteOffset);
    simd.screen(red, green, blue, raster.alpha?.byteOffset ?? 0, room.address, n);
    pixels.set(room.view);
  } else fillPixels(planes, raster.alpha, pixels, n);
  closeArena(mark);
  return pixels;
}

function fillPixels(
  [red, green, blue]: readonly Float32Array[],
  alpha: Float32Array | null,
  pixels: Uint8ClampedArray,
  n: number
): void {
  for (let i = 0, at = 0; i < n; i++, at += 4) {
    pixels[at] = eightBit(red[i]);
    pixels[at + 1] = eightBit(green[i]);
    pixels[at + 2] = eightBit(blue[i]);
    pixels[at + 3] = alpha ? eightBit(alpha[i]) : 255;
  }
}

/** The nearest of 0…255 to a value of 0…1, as the export rounds. */
const eightBit = (v: number): number =>
  v > 0 ? (v < 1 ? Math.floor(Math.fround(Math.fround(v * 255) + 0.5)) : 255) : 0;

function channelPlanes(raster: Raster, id: string, n: number): Float32Array[] {
  const plane = takePlane(n);
  fillChannel(id, raster.planes, plane, n);
  if (channelOf(id).ink) for (let i = 0; i < n; i++) plane[i] = 1 - plane[i];
  return [plane, plane, plane];
}
