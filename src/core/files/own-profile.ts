import type { Lcms } from 'lcms-wasm';
import { isOwn, readyFor, type Intent, type OutputSpace, type OwnSpace, type OwnWay } from '../colour/own';

import { contentHash } from './content-hash';
import { FileError } from './image';
import {
  BLACK_POINT_COMPENSATION,
  loadLcms,
  MOST_PROFILE_BYTES,
  NO_CACHE_NO_OPTIMIZE,
  openProfile,
  PERCEPTUAL,
  RELATIVE_COLORIMETRIC,
  RGB_FLOAT,
  XYZ_FLOAT
} from './lcms';
import { latin } from './latin';
import { stemOf } from './name-pattern';

/** A profile of a person's own that files can be written by. */
export interface OwnProfile extends Pick<OwnSpace, 'title' | 'key' | 'profile'> {
  /** The ways of bringing colours into it that it has numbers for, the usual first. */
  readonly intents: readonly Intent[];
}

/** ICC.1:2022, 7.2: where the class, the space and the signature of a profile stand; the tags. */
const [CLASS, SPACE, SIGNATURE, TAGS] = [12, 16, 36, 128];
/** Screens, printers and spaces; a scanner or camera where it says how values are made. */
const CLASSES = ['mntr', 'prtr', 'spac', 'scnr'];
const SPACES: Readonly<Record<string, string>> = { GRAY: 'greys', CMYK: 'CMYK inks', 'Lab ': 'LAB' };

/** @param name of its file @throws FileError that says why it can't be written by */
export async function readOwnProfile(profile: Uint8Array<ArrayBuffer>, name: string): Promise<OwnProfile> {
  const refused = (why: string): FileError =>
    new FileError(`“${name}” can’t be written by: ${why} Choose an ICC profile of RGB.`);
  if (profile.length > MOST_PROFILE_BYTES)
    throw refused(`it is larger than ${MOST_PROFILE_BYTES / 2 ** 20} MB, which no profile of RGB is.`);
  const word = (at: number): string => latin(profile.subarray(at, at + 4));
  if (profile.length < TAGS + 4 || word(SIGNATURE) !== 'acsp') throw refused('it is no ICC profile.');
  const space = word(SPACE);
  if (space !== 'RGB ')
    throw refused(`it is a profile of ${SPACES[space] ?? `“${space.trim()}”`}, and Kromba writes RGB.`);
  if (!CLASSES.includes(word(CLASS)))
    throw refused('it goes from one device to another, or names colours, and is of no space.');
  const tags = tagsOf(profile);
  const perceptual = tags.includes('B2A0') && tags.some((tag) => tag === 'B2A1' || tag === 'D2B1');
  const own = {
    ...{ title: stemOf(name), key: await contentHash(new Blob([profile])), profile },
    intents: perceptual ? (['relative', 'perceptual'] as const) : (['relative'] as const)
  };
  // What it promises is tried at once, and not when a picture is waiting.
  const way = wayInto(await loadLcms(), { ...own, intent: 'relative', blackPoint: true });
  if (!way) throw refused('it is damaged, or says only how colours are read from it.');
  way.close();
  return own;
}

function tagsOf(profile: Uint8Array): string[] {
  const view = new DataView(profile.buffer, profile.byteOffset, profile.byteLength);
  const count = Math.min(view.getUint32(TAGS), Math.floor((profile.length - TAGS - 4) / 12));
  return Array.from({ length: count }, (_, i) => {
    const at = TAGS + 4 + 12 * i;
    return latin(profile.subarray(at, at + 4));
  });
}

/** Makes a space ready to be computed in; for one of ours there is nothing to do. @throws FileError */
export async function ready(space: OutputSpace | undefined): Promise<void> {
  if (!isOwn(space)) return;
  const library = await loadLcms();
  await readyFor(space, (own) => {
    const way = wayInto(library, own);
    if (!way) throw new FileError(`The profile “${own.title}” can’t be written by. Choose another.`);
    return Promise.resolve(way);
  });
}

/** In floats, nothing precalculated; null where the profile has none. */
function wayInto(library: Lcms, { profile, intent, blackPoint }: OwnSpace): OwnWay | null {
  // What is shared with other workers is not taken as it is.
  const handle = openProfile(library, profile.slice());
  if (!handle) return null;
  const [srgb, xyz] = [library.cmsCreate_sRGBProfile(), library.cmsCreateXYZProfile()];
  const flags = NO_CACHE_NO_OPTIMIZE;
  const by = intent === 'perceptual' ? PERCEPTUAL : RELATIVE_COLORIMETRIC;
  const more = blackPoint ? BLACK_POINT_COMPENSATION : 0;
  const into = (from: number, format: number, way: number, options: number): number =>
    library.cmsCreateTransform(from, format, handle, RGB_FLOAT, way, flags | options);
  const transforms = [
    into(srgb, RGB_FLOAT, by, more),
    into(xyz, XYZ_FLOAT, by, more),
    into(xyz, XYZ_FLOAT, RELATIVE_COLORIMETRIC, 0),
    library.cmsCreateTransform(handle, RGB_FLOAT, xyz, XYZ_FLOAT, RELATIVE_COLORIMETRIC, flags)
  ];
  for (const profile of [handle, srgb, xyz]) library.cmsCloseProfile(profile);
  const close = (): void => {
    for (const transform of transforms) if (transform) library.cmsDeleteTransform(transform);
  };
  if (!transforms.every((transform) => transform)) {
    close();
    return null;
  }
  const [coded, light, there, back] = transforms;
  return {
    fromSrgb: (values, count) => library.cmsDoTransform(coded, values, count),
    fromXyz: (values, count) => library.cmsDoTransform(light, values, count),
    held: (values, count) => {
      const made = library.cmsDoTransform(there, values, count).map((v) => Math.min(1, Math.max(0, v)));
      return library.cmsDoTransform(back, made, count);
    },
    close
  };
}
