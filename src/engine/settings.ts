import { SPACE_IDS, spaceOf, type SpaceId } from '../core/colour/output';
import { INTENTS } from '../core/colour/own';
import { COMPRESSIONS, fileFormats, formatForName, type Compression, type FileFormat } from '../core/files';
import type { OwnProfile } from '../core/files/own-profile';
import { METADATA_CHOICES, type MetadataChoice } from '../core/files/metadata';
import type { SampleType } from '../core/raster/frame';
import type { RenderSettings } from './render-file';

/** What a file of each format is called. */
export const ENDINGS = fileFormats.map(({ extensions }) => extensions[0]);
const listed = (words: readonly string[]): string => `${words.slice(0, -1).join(', ')} or ${words.at(-1)}`;
export const AND_ENDINGS = listed(ENDINGS);

/** Bits a channel. */
export const DEPTHS: Readonly<Record<string, SampleType>> = { 8: 'u8', 16: 'u16', 32: 'f32' };

/** How a file is written, as it is said in words. */
export interface SettingWords {
  /** What a file of the format is called. */
  readonly format: string;
  readonly depth?: string;
  readonly space?: string;
  readonly size?: string;
  readonly quality?: string;
  readonly compression?: string;
  readonly dither?: boolean;
  readonly metadata?: string;
  readonly history?: boolean;
  readonly grey?: boolean;
  readonly keepRange?: boolean;
}

/** One that can't be; the message says why, without its name and value. */
export class SettingError extends Error {
  override readonly name = 'SettingError';
  constructor(
    readonly setting: keyof SettingWords | 'strength' | 'profile' | 'intent',
    readonly value: string,
    message: string
  ) {
    super(message);
  }
}

function depthOf(format: FileFormat, depth: string | undefined): SampleType {
  if (depth === undefined) return format.depths[0];
  const type = Object.hasOwn(DEPTHS, depth) ? DEPTHS[depth] : undefined;
  if (!type) throw new SettingError('depth', depth, 'use 8, 16 or 32');
  if (!format.depths.includes(type)) {
    const can = Object.keys(DEPTHS).filter((d) => format.depths.includes(DEPTHS[d]));
    throw new SettingError(
      'depth',
      depth,
      `${format.title} is written with ${can.join(' or ')} bits a channel`
    );
  }
  return type;
}

function spaceIn({ title, spaces }: FileFormat, name: string): SpaceId {
  const id = SPACE_IDS.find((one) => one === name);
  if (!id) throw new SettingError('space', name, `use ${SPACE_IDS.join(', ')}`);
  if (!spaces.includes(id)) {
    const can = spaces.map((one) => spaceOf(one).title).join(', ');
    throw new SettingError('space', name, `${title} is written in ${can}`);
  }
  return id;
}

const COMPRESSED_EITHER_WAY = fileFormats
  .flatMap(({ title, compresses = [] }) =>
    Object.keys(DEPTHS)
      .filter((depth) => compresses.includes(DEPTHS[depth]))
      .map((depth) => `${title} of ${depth} bits a channel`)
  )
  .join(' or ');

function compressionIn(
  { compresses }: FileFormat,
  depth: SampleType,
  word: string | undefined
): Compression | undefined {
  if (word === undefined) return undefined;
  const compression = COMPRESSIONS.find((one) => one === word);
  if (!compression) throw new SettingError('compression', word, `use ${COMPRESSIONS.join(' or ')}`);
  if (!compresses?.includes(depth))
    throw new SettingError('compression', word, `only ${COMPRESSED_EITHER_WAY} leaves it open`);
  return compression;
}

function metadataIn(word: string): MetadataChoice {
  const choice = METADATA_CHOICES.find((one) => one === word);
  if (!choice) throw new SettingError('metadata', word, `use ${METADATA_CHOICES.join(', ')}`);
  return choice;
}

/** A whole number; undefined where it is not given. */
function whole(
  setting: SettingError['setting'],
  text: string | undefined,
  least: number,
  most: number
): number | undefined {
  if (text === undefined) return undefined;
  const value = Number(text);
  if (text.trim() === '' || !Number.isInteger(value) || value < least || value > most)
    throw new SettingError(setting, text, `give a whole number from ${least} to ${most}`);
  return value;
}

/** How strongly a look is put on, 0…1, of percent. @throws SettingError */
export const strengthOf = (percent: string | undefined): number =>
  (whole('strength', percent, 1, 100) ?? 100) / 100;

/** How colours are brought into a profile, as it is said in words. */
export interface IntoProfile {
  readonly intent?: string;
  readonly blackPoint?: boolean;
}

/** Formats that any profile can go into. */
const WITH_PROFILES = listed(fileFormats.filter(({ ownSpaces }) => ownSpaces).map(({ title }) => title));

/** The same, written by a profile of one's own. @throws SettingError */
export function inOwnProfile(
  settings: RenderSettings,
  { intents, ...own }: OwnProfile,
  { intent: word = 'relative', blackPoint = true }: IntoProfile
): RenderSettings {
  const { title, ownSpaces } = fileFormats.find(({ id }) => id === settings.format)!;
  const refused = (why: string): SettingError => new SettingError('profile', own.title, why);
  if (!ownSpaces) throw refused(`${title} has no place for it; use ${WITH_PROFILES}`);
  if (settings.space !== undefined) throw refused('a space is named beside it; leave one of them out');
  if (settings.grey) throw refused('it is of RGB, which one plane is not');
  const intent = INTENTS.find((one) => one === word);
  if (!intent) throw new SettingError('intent', word, `use ${INTENTS.join(' or ')}`);
  if (!intents.includes(intent)) throw new SettingError('intent', intent, 'the profile has no tables for it');
  return { ...settings, space: { ...own, intent, blackPoint } };
}

/** @throws SettingError for the first that can't be */
export function renderSettings(words: SettingWords): RenderSettings {
  const format = formatForName(`.${words.format}`);
  if (!format) throw new SettingError('format', words.format, `use ${AND_ENDINGS}`);
  const depth = depthOf(format, words.depth);
  return {
    format: format.id,
    depth,
    space: words.space === undefined ? undefined : spaceIn(format, words.space),
    dither: depth === 'u8' && (words.dither ?? true),
    longerSide: whole('size', words.size, 1, 2 ** 18),
    quality: whole('quality', words.quality, 1, 100),
    compression: compressionIn(format, depth, words.compression),
    metadata: metadataIn(words.metadata ?? 'keep'),
    history: words.history ?? false,
    keepRange: words.keepRange ?? false,
    grey: words.grey ?? false
  };
}
