import { basename } from 'node:path';
import { parseArgs } from 'node:util';
import { atStrength, readDocument } from '../src/core/document';
import { SPACE_IDS } from '../src/core/colour/output';
import { INTENTS } from '../src/core/colour/own';
import { COMPRESSIONS, formatForName } from '../src/core/files';
import { METADATA_CHOICES } from '../src/core/files/metadata';
import { readOwnProfile } from '../src/core/files/own-profile';
import { isBundle, unpackBundle } from '../src/core/files/bundle';
import { nodePool } from '../src/engine/node/pool';
import { provideNodeWasm } from '../src/engine/node/wasm';
import type { Pool } from '../src/engine/pool';
import { renderFile, type Rendered, type RenderSettings } from '../src/engine/render-file';
import {
  AND_ENDINGS,
  ENDINGS,
  inOwnProfile,
  renderSettings,
  SettingError,
  strengthOf,
  type SettingWords
} from '../src/engine/settings';
import { about, renderWork, workOf } from '../src/engine/work';
import { besideFile, lookIn, lookOnFrames } from './beside';
import { command, inputFile, readInput, writeOutput } from './command';
import { renderMany } from './render-many';

const USAGE = `Usage:
  npm run -s render -- DOCUMENT.kromba.json --picture NAME --out FILE [SETTINGS]
  npm run -s render -- --look LOOK.json IMAGE --out FILE [SETTINGS]
  npm run -s render -- --look LOOK.json --out-dir FOLDER IMAGES … [SETTINGS] [--format ${ENDINGS.join('|')}]
                       [--name "{name}-{look}"] [--overwrite] [--json]
Settings:
  --strength 1…100  percent of the look
  --depth 8|16|32   bits a channel
  --space SPACE     ${SPACE_IDS.join(', ')}
  --profile FILE    an ICC profile of RGB in its place (PNG, TIFF, JPEG, WebP)
  --intent INTENT   ${INTENTS.join(', ')}: how colours are brought into it
  --no-black-point  what is darker than it can be is cut, not brought along
  --size PIXELS     along the longer side; nothing is enlarged
  --quality 1…100   of JPEG, WebP, AVIF and JPEG XL
  --compression HOW ${COMPRESSIONS.join(', ')}: of a TIFF of 16 bits
  --no-dither       8 bits are rounded, not spread
  --metadata KEPT   ${METADATA_CHOICES.join(', ')}: all, all but place and camera, or nothing
  --history         the steps are written into it, in words
  --grey            one plane
  --keep-range      32 bits keep what lies outside 0…1`;
/** Options that say nothing where one file is written. */
const OF_MANY = ['name', 'format', 'overwrite', 'json'] as const;

/** Makes one file, when there are workers. */
type Making = (pool: Pool) => Promise<Rendered>;

const decodeText = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);

async function fromDocument(path: string, picture: string, settings: RenderSettings): Promise<Making> {
  const bytes = await readInput(path);
  const bundle = isBundle(bytes)
    ? await about(path, () => unpackBundle(new Blob([new Uint8Array(bytes)])))
    : null;
  const document = bundle?.document ?? (await about(path, () => readDocument(decodeText(bytes))));
  const work = await workOf(document, picture, bundle?.files ?? new Map(), besideFile(path));
  return (pool) => renderWork(pool, work, settings);
}

async function fromLook(
  lookPath: string,
  path: string,
  strength: number,
  settings: RenderSettings
): Promise<Making> {
  const sourceOf = await lookOnFrames(lookPath, atStrength(await lookIn(lookPath), strength));
  const file = await inputFile(path);
  const given = { key: 'frame', file: () => Promise.resolve(file) };
  return (pool) => about(path, () => renderFile(pool, given, sourceOf, settings));
}

/** What options say. @throws Error, naming the one that can't be */
function inOptions<T>(read: () => T): T {
  try {
    return read();
  } catch (error) {
    if (!(error instanceof SettingError)) throw error;
    throw new Error(`--${error.setting} ${error.value}: ${error.message}.`, { cause: error });
  }
}

interface ProfileOptions {
  readonly profile?: string;
  readonly intent?: string;
  readonly 'no-black-point'?: boolean;
}

/** @throws Error */
async function withProfile(settings: RenderSettings, options: ProfileOptions): Promise<RenderSettings> {
  const { profile: path, intent, 'no-black-point': cut } = options;
  if (path === undefined) {
    const idle = intent !== undefined ? 'intent' : cut ? 'no-black-point' : null;
    if (idle) throw new Error(`--${idle} goes with --profile.`);
    return settings;
  }
  provideNodeWasm();
  const bytes = new Uint8Array(await readInput(path));
  const own = await readOwnProfile(bytes, basename(path));
  return inOptions(() => inOwnProfile(settings, own, { intent, blackPoint: !cut }));
}

const say = (text: string): void => void process.stderr.write(`${text}\n`);

interface Settings extends RenderSettings {
  readonly extension: string;
}

async function many(
  pool: Pool,
  lookPath: string,
  files: readonly string[],
  folder: string,
  { extension, ...settings }: Settings,
  { name, overwrite, json, strength }: { name: string; overwrite: boolean; json: boolean; strength: number }
): Promise<void> {
  const look = atStrength(await lookIn(lookPath), strength);
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
      space: { type: 'string' },
      profile: { type: 'string' },
      intent: { type: 'string' },
      'no-black-point': { type: 'boolean' },
      size: { type: 'string' },
      quality: { type: 'string' },
      compression: { type: 'string' },
      strength: { type: 'string' },
      metadata: { type: 'string' },
      history: { type: 'boolean', default: false },
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
  if (values.strength !== undefined && look === undefined)
    throw new Error('--strength is of a look: use it with --look.');
  const idle = isOne && OF_MANY.find((option) => values[option] !== undefined);
  if (idle) throw new Error(`--${idle} is for many files: use it with --out-dir.`);
  const { name = '{name}', format: extension = 'png', overwrite = false, json = false } = values;
  if (isOne && !formatForName(out))
    throw new Error(`${out}: name a file that ends in .${AND_ENDINGS.replace(/, | or /g, '$&.')}.`);
  const strength = inOptions(() => strengthOf(values.strength));
  const words: SettingWords = {
    ...{ depth: values.depth, space: values.space, size: values.size, quality: values.quality },
    compression: values.compression,
    format: isOne ? out.slice(out.lastIndexOf('.') + 1) : extension,
    dither: !values['no-dither'],
    ...{ metadata: values.metadata, history: values.history },
    ...{ keepRange, grey }
  };
  const settings = await withProfile(
    inOptions(() => renderSettings(words)),
    values
  );
  // What is wrong with a document is said before workers are begun.
  const make = isMany
    ? null
    : await (look ? fromLook(look, input, strength, settings) : fromDocument(input, picture ?? '', settings));
  const pool = nodePool();
  try {
    if (make) {
      const { file, notices } = await make(pool);
      await writeOutput(out!, new Uint8Array(await file.arrayBuffer()));
      for (const notice of notices) say(`${out}: ${notice}`);
    } else
      await many(
        pool,
        look!,
        positionals,
        folder!,
        { ...settings, extension },
        { name, overwrite, json, strength }
      );
  } finally {
    pool.close();
  }
});
