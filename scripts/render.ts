import { dirname, join } from 'node:path';
import { parseArgs } from 'node:util';
import { pictureNamed, readDocument, readFrameKey, Resolver, type PictureSource } from '../src/core/document';
import { FileError, formatForName, type FileFormat } from '../src/core/files';
import { isBundle, unpackBundle } from '../src/core/files/bundle';
import { shapeOf } from '../src/core/path/shape';
import type { Frame, SampleType } from '../src/core/raster/frame';
import { exportEncoding, exportPicture, isGrey, notesOf } from '../src/engine/export';
import { nodePool } from '../src/engine/node/pool';
import { about, lookIn, lookOn, tablesOf } from './beside';
import { command, readInput, writeOutput } from './command';

const USAGE = `Usage:
  npm run -s render -- DOCUMENT.kromba.json --picture NAME --out FILE [--depth 8|16|32] [--keep-range] [--grey]
  npm run -s render -- --look LOOK.json IMAGE --out FILE [--depth 8|16|32] [--keep-range] [--grey]`;
const DEPTHS: Record<string, SampleType> = { 8: 'u8', 16: 'u16', 32: 'f32' };

/** What is said of a file of a linear picture. */
const ENCODED = {
  coded: 'the picture is linear; its values were encoded as sRGB.',
  linear: 'the picture is linear, and so are the values of the file.'
};

interface Work {
  /** The picture, of frames by their keys, which begin with the names of their files. */
  of(frames: ReadonlyMap<string, Frame>): PictureSource;
  /** Those files. */
  readonly images: ReadonlyMap<string, Blob>;
}

const inputFile = async (path: string): Promise<Blob> => new Blob([new Uint8Array(await readInput(path))]);

const decodeText = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);

async function fromDocument(path: string, pictureName: string): Promise<Work> {
  const bytes = await readInput(path);
  const bundle = isBundle(bytes)
    ? await about(path, () => unpackBundle(new Blob([new Uint8Array(bytes)])))
    : null;
  const document = bundle?.document ?? (await about(path, () => readDocument(decodeText(bytes))));
  const picture = pictureNamed(document, pictureName);
  const files = [...document.frames, ...document.tables].map(({ id, file }) => [id, file] as const);
  const besideIt = async (id: string, name: string): Promise<Blob> =>
    bundle?.files.get(id) ?? (await inputFile(join(dirname(path), name)));
  const tables = await tablesOf(
    document,
    async (id, name) => new Uint8Array(await (await besideIt(id, name)).arrayBuffer())
  );
  const resolver = new Resolver(document, Object.fromEntries(files), tables);
  const images = new Map<string, Blob>();
  for (const key of resolver.framesOf(picture)) {
    const { file } = readFrameKey(key);
    images.set(key, await besideIt(document.frames.find((f) => f.file === file)!.id, file));
  }
  return { of: () => resolver.whole(picture), images };
}

async function fromLook(lookPath: string, imagePath: string): Promise<Work> {
  const source = await lookOn(lookPath, await lookIn(lookPath), imagePath);
  const of: Work['of'] = (frames) => source(frames.get(imagePath)!);
  return { of, images: new Map([[imagePath, await inputFile(imagePath)]]) };
}

function outputFormat(out: string, depth: string | undefined): { format: FileFormat; depth: SampleType } {
  const format = formatForName(out);
  if (!format) throw new Error(`${out}: name a file that ends in .png, .jpg, .tif or .fits.`);
  if (depth === undefined) return { format, depth: format.depths[0] };
  const type = DEPTHS[depth];
  if (!type) throw new Error(`--depth ${depth}: use 8, 16 or 32.`);
  if (!format.depths.includes(type)) {
    const can = Object.keys(DEPTHS).filter((d) => format.depths.includes(DEPTHS[d]));
    throw new Error(`--depth ${depth}: ${format.title} is written with ${can.join(' or ')} bits a channel.`);
  }
  return { format, depth: type };
}

await command(async () => {
  const { values, positionals } = parseArgs({
    allowPositionals: true,
    options: {
      picture: { type: 'string' },
      look: { type: 'string' },
      out: { type: 'string' },
      depth: { type: 'string' },
      'keep-range': { type: 'boolean', default: false },
      grey: { type: 'boolean', default: false }
    }
  });
  const [input] = positionals;
  if (
    !input ||
    positionals.length > 1 ||
    !values.out ||
    (values.picture === undefined) === (values.look === undefined)
  ) {
    throw new Error(USAGE);
  }
  const { format, depth } = outputFormat(values.out, values.depth);
  const work = values.look
    ? await fromLook(values.look, input)
    : await fromDocument(input, values.picture ?? '');
  const pool = nodePool();
  const frames = new Map<string, Frame>();
  try {
    for (const [key, file] of work.images) {
      const { file: name, choices } = readFrameKey(key);
      const { frame, notices } = await about(name, () => pool.runApart('open', { file, choices }));
      for (const notice of notices) process.stderr.write(`${name}: ${notice}\n`);
      pool.register(key, frame);
      frames.set(key, frame);
    }
    const source = work.of(frames);
    const notes = notesOf(source, (hash) => frames.get(hash));
    const grey = values.grey || (format.id === 'fits' && (await isGrey(pool, source)));
    const settings = { format: format.id, depth, keepRange: values['keep-range'], grey, notes };
    const shape = shapeOf(source, (name) => frames.get(name)!);
    const file = await exportPicture(pool, shape, source, settings);
    await writeOutput(values.out, new Uint8Array(await file.arrayBuffer()));
    if (shape.encoding === 'linear')
      process.stderr.write(`${values.out}: ${ENCODED[exportEncoding(shape.encoding, settings)]}\n`);
  } catch (error) {
    if (error instanceof RangeError) throw new FileError('There is not enough memory for this picture.');
    throw error;
  } finally {
    pool.close();
  }
});
