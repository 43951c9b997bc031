import type { DecodedImage, FinishedImage } from '../files/image';
import { FileError } from '../files/image';
import { sampleScale, sharedSamples } from '../raster/frame';
import { throughTable, type Table } from './table';

/**
 * A table as a picture, as open tools exchange them: of level n a square of n³ pixels a side, whose pixels, row by row, are the nodes
 * of a cube of n² a side, red running fastest.
 */
export const gridLevels = [8, 12] as const;

/** The level of a picture of this size; null where it is no such grid. */
export const gridLevel = ({
  width,
  height
}: {
  readonly width: number;
  readonly height: number;
}): number | null => gridLevels.find((level) => width === level ** 3 && height === level ** 3) ?? null;

/** Reads a grid that has been through some change as the table of that change. @throws FileError for a picture that is no grid */
export function tableFromGrid(image: DecodedImage): Table {
  const { width, height, layout, alpha, samples } = image;
  const level = gridLevel(image);
  if (level === null || layout !== 'rgb') {
    const sides = gridLevels.map((n) => `${n ** 3} × ${n ** 3}`).join(' or ');
    throw new FileError(
      `This picture is no table: it is ${width} × ${height} pixels${layout === 'rgb' ? '' : ' and not in colour'}, and a picture of a table is in colour and ${sides}. Choose a .cube file, or such a picture.`
    );
  }
  const stride = alpha ? 4 : 3;
  const scale = sampleScale(samples);
  const values = sharedSamples('f32', 3 * width * height) as Float32Array;
  for (let i = 0; i < width * height; i++)
    for (let c = 0; c < 3; c++) values[3 * i + c] = samples[stride * i + c] * scale;
  if (values.some(Number.isNaN))
    throw new FileError('This picture of a table has samples that are no numbers.');
  return { title: '', curves: null, cube: { size: level * level, low: [0, 0, 0], high: [1, 1, 1], values } };
}

/** The picture of a table, in 16 bit: what becomes of every node of an untouched grid. An untouched one where no table is given. */
export function gridPicture(table: Table | null, level: (typeof gridLevels)[number]): FinishedImage {
  const side = level ** 3;
  const nodes = level ** 2;
  const n = side * side;
  const at = (v: number): number => v / (nodes - 1);
  const planes = [
    Float32Array.from({ length: n }, (_, i) => at(i % nodes)),
    Float32Array.from({ length: n }, (_, i) => at(Math.floor(i / nodes) % nodes)),
    Float32Array.from({ length: n }, (_, i) => at(Math.floor(i / nodes ** 2)))
  ];
  if (table) throughTable(table, planes, planes, n, 'tetrahedral');
  const samples = sharedSamples('u16', 3 * n);
  planes.forEach((plane, c) =>
    plane.forEach((v, i) => (samples[3 * i + c] = Math.round(65535 * Math.min(1, Math.max(0, v)))))
  );
  return { width: side, height: side, alpha: false, samples };
}
