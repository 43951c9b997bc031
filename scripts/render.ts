import { dirname, join } from 'node:path';
import { parseArgs } from 'node:util';
import { pictureNamed, readDocument, readFrameKey, Resolver, type PictureSource } from '../src/core/document';
import { SPACE_IDS, spaceOf, type SpaceId } from '../src/core/colour/output';
import { fileFormats, formatForName, type FileFormat } from '../src/core/files';
import { isBundle, unpackBundle } from '../src/core/files/bundle';
import type { Frame, SampleType } from '../src/core/raster/frame';
import { nodePool } from '../src/engine/node/pool';
import type { Pool } from '../src/engine/pool';
import { openFor, renderPicture, type RenderSettings } from '../src/engine/render-file';
import { about, lookIn, lookOnFrames, tablesOf } from './beside';
import { command, inputFile, readInput, writeOutput } from './command';
import { renderMany } from './render-many';

/** What a file of each format is called. */
const ENDINGS = fileFormats.map(({ extensions }) => extensions[0]);
const AND_ENDINGS = `${ENDINGS.slice(0, -1).join(', ')} or ${ENDINGS.at(-1)}`;

const USAGE = `Usage:
  npm run -s render -- DOCUMENT.kromba.json --picture NAME --out FILE [SETTINGS]
  npm run -s render -- --look LOOK.json IMAGE --out FILE [SETTINGS]
  npm run -s render -- --look LOOK.json --out-dir FOLDER IMAGES … [SETTINGS] [--format ${ENDINGS.join('|')}]
                       [--name "{name}-{look}"] [--overwrite] [--json]
Settings:
  --depth 8|16|32   bits a channel
  --space SPACE     ${SPACE_IDS.join(', ')}
  --size PIXELS     along the longer side; nothing is enlarged
  --quality 1…100   of JPEG
  --no-dither       8 bits are rounded, not spread
  --grey            one plane
  --keep-range      32 bits keep what lies outside 0…1`;
/** Options that say nothing where one file is written. */
const OF_MANY = ['name', 'format', 'overwrite', 'json'] as const;
const DEPTHS: Record<string, SampleType> = { 8: 'u8', 16: 'u16', 32: 'f32' };

interface Work {
  /** The picture, of frames by their keys. */
  of(frames: ReadonlyMap<string, Frame>): PictureSource;
  /** Their files, and what these are called. */
  readonly images: ReadonlyMap<string, { readonly name: string; readonly file: Blob }>;
}

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
  const images: [string, { name: string; file: Blob }][] = [];
  for (const key of resolver.framesOf(picture)) {
    const { file: name } = readFrameKey(key);
    const { id } = document.frames.find(({ file }) => file === name)!;
    images.push([key, { name, file: await besideIt(id, name) }]);
  }
  return { of: () => resolver.whole(picture), images: new Map(images) };
}

async function fromLook(lookPath: string, imagePath: string): Promise<Work> {
  const source = await lookOnFrames(lookPath, await lookIn(lookPath));
  const of: Work['of'] = (frames) => source('frame', frames.get('frame')!);
  return { of, images: new Map([['frame', { name: imagePath, file: await inputFile(imagePath) }]]) };
}

/** The format of a file's name, and the depth that is asked for or is its own. @throws Error where it is not written so */
function formatFor(
  name: string,
  unknown: string,
  depth: string | undefined
): { format: FileFormat; depth: SampleType } {
  const format = formatForName(name);
  if (!format) throw new Error(unknown);
  if (depth === undefined) return { format, depth: format.depths[0] };
  const type = DEPTHS[depth];
  if (!type) throw new Error(`--depth ${depth}: use 8, 16 or 32.`);
  if (!format.depths.includes(type)) {
    const can = Object.keys(DEPTHS).filter((d) => format.depths.includes(DEPTHS[d]));
    throw new Error(`--depth ${depth}: ${format.title} is written with ${can.join(' or ')} bits a channel.`);
  }
  return { format, depth: type };
}

/** @throws Error where the format is not written in it */
function spaceFor({ title, spaces }: FileFormat, name: string): SpaceId {
  const id = SPACE_IDS.find((one) => one === name);
  if (!id) throw new Error(`--space ${name}: use ${SPACE_IDS.join(', ')}.`);
  if (!spaces.includes(id)) {
    const can = spaces.map((one) => spaceOf(one).title).join(', ');
    throw new Error(`--space ${name}: ${title} is written in ${can}.`);
  }
  return id;
}

/** A whole number of an option; undefined where it is not given. @throws Error */
function whole(option: string, text: string | undefined, least: number, most: number): number | undefined {
  if (text === undefined) return undefined;
  const value = Number(text);
  if (!Number.isInteger(value) || value < least || value > most)
    throw new Error(`${option} ${text}: give a whole number from ${least} to ${most}.`);
  return value;
}

const say = (text: string): void => void process.stderr.write(`${text}\n`);

interface Settings extends RenderSettings {
  readonly extension: string;
}

async function one(pool: Pool, work: Work, out: string, settings: RenderSettings): Promise<void> {
  const frames = new Map<string, Frame>();
  for (const [key, { name, file }] of work.images) {
    const { frame, notices } = await about(name, () => openFor(pool, key, file));
    for (const notice of notices) say(`${name}: ${notice}`);
    frames.set(key, frame);
  }
  const { file, notices } = await renderPicture(pool, work.of(frames), (key) => frames.get(key)!, settings);
  await writeOutput(out, new Uint8Array(await file.arrayBuffer()));
  for (const notice of notices) say(`${out}: ${notice}`);
}

async function many(
  pool: Pool,
  lookPath: string,
  files: readonly string[],
  folder: string,
  { extension, ...settings }: Settings,
  { name, overwrite, json }: { name: string; overwrite: boolean; json: boolean }
): Promise<void> {
  const look = await lookIn(lookPath);
  const sourceOf = await lookOnFrames(lookPath, look);
  const stopped = new AbortController();
  const stop = (): void =>
    stopped.abort(new Error('Stopped. What was written stays; nothing is half written.'));
  process.once('SIGINT', stop).once('SIGTERM', stop);
  let written = 0;
  const well = await renderMany(
    pool,
    { files, folder, look: look.name, pattern: name, extension, settings, overwrite, sourceOf },
    (outcome, done) => {
      if ('out' in outcome) written++;
      if (json) return void process.stdout.write(`${JSON.stringify(outcome)}\n`);
      const at = `${done}/${files.length} ${outcome.file}`;
      if ('problem' in outcome) return say(`${at}: not written. ${outcome.problem}`);
      say(`${at} → ${outcome.out}`);
      for (const notice of outcome.notices) say(`  ${notice}`);
    },
    stopped.signal
  );
  if (!well)
    throw new Error(`${written} of ${files.length} written; what is wrong with the others is said above.`);
}

await command(async () => {
  const { values, positionals } = parseArgs({
    allowPositionals: true,
    options: {
      picture: { type: 'string' },
      look: { type: 'string' },
      out: { type: 'string' },
      'out-dir': { type: 'string' },
      name: { type: 'string' },
      format: { type: 'string' },
      overwrite: { type: 'boolean' },
      json: { type: 'boolean' },
      depth: { type: 'string' },
      space: { type: 'string', default: 'srgb' },
      size: { type: 'string' },
      quality: { type: 'string' },
      'no-dither': { type: 'boolean', default: false },
      'keep-range': { type: 'boolean', default: false },
      grey: { type: 'boolean', default: false }
    }
  });
  const { look, picture, out, 'out-dir': folder, grey, 'keep-range': keepRange } = values;
  const [input] = positionals;
  const isMany = folder !== undefined && look !== undefined && out === undefined && picture === undefined;
  const isOne =
    folder === undefined &&
    out !== undefined &&
    positionals.length === 1 &&
    (picture === undefined) !== (look === undefined);
  if (!input || (!isMany && !isOne)) throw new Error(USAGE);
  const idle = isOne && OF_MANY.find((option) => values[option] !== undefined);
  if (idle) throw new Error(`--${idle} is for many files: use it with --out-dir.`);
  const { name = '{name}', format: extension = 'png', overwrite = false, json = false } = values;
  const { format, depth } = isMany
    ? formatFor(`.${extension}`, `--format ${extension}: use ${AND_ENDINGS}.`, values.depth)
    : formatFor(
        out!,
        `${out}: name a file that ends in .${AND_ENDINGS.replace(/, | or /g, '$&.')}.`,
        values.depth
      );
  const space = spaceFor(format, values.space);
  const dither = depth === 'u8' && !values['no-dither'];
  const longerSide = whole('--size', values.size, 1, 2 ** 18);
  const quality = whole('--quality', values.quality, 1, 100);
  const settings = { format: format.id, depth, space, dither, longerSide, quality, keepRange, grey };
  // What is wrong with a document is said before workers are begun.
  const work = isMany ? null : look ? await fromLook(look, input) : await fromDocument(input, picture ?? '');
  const pool = nodePool();
  try {
    if (work) await one(pool, work, out!, settings);
    else await many(pool, look!, positionals, folder!, { ...settings, extension }, { name, overwrite, json });
  } finally {
    pool.close();
  }
});
