import {
  DocumentError,
  freeNames,
  LONGEST_NAME,
  parseDocument,
  Resolver,
  type KrombaDocument
} from '$core/document';
import type { Encoding } from '$core/colour';
import { FileError } from '$core/files';
import { isBundle } from '$core/files/bundle';
import { takenOf } from '$core/files/fits/told';
import { freeFileNames, ownFileName, withoutExtension } from '$core/files/file-names';
import { bytesOf } from '$engine/bytes-of';
import type { Library, StoredDocument } from '$storage/library';
import type { Table } from '$core/lut/table';
import { brightness, type Frame } from '$core/raster/frame';
import { openFrame, openTable, pool, tabs, takeFile, takeTable, takeUnseen } from './services';

const THUMBNAIL = 480;
/** Bytes by which a bundle is known. */
const BUNDLE_START = 4;
/** A small picture whose frames are not open by then is given up. */
const WAIT = 15_000;

/** A document for frames, each with a picture whose path is empty. */
function newDocument(
  name: string,
  frames: readonly { name: string; file: string; encoding: Encoding }[]
): KrombaDocument {
  return parseDocument({
    kromba: 1,
    kind: 'document',
    name,
    frames: frames.map((frame, i) => ({ id: `f${i + 1}`, ...frame })),
    pictures: frames.map((frame, i) => ({
      id: `p${i + 1}`,
      name: frame.name,
      head: { kind: 'frame', frame: `f${i + 1}` },
      steps: []
    }))
  });
}

/** A file that came in, under its name. */
export interface NamedFile {
  readonly name: string;
  readonly file: Blob;
}

export interface Added {
  readonly stored: StoredDocument;
  /** Draws its small picture, which the bench does where it is opened. @throws as `renewThumbnail` */
  readonly thumbnail: () => Promise<void>;
}

/**
 * Puts a file among the documents: an image becomes a document of its own, a bundle the document it holds.
 * @throws FileError, DocumentError or StorageError, or the signal's reason; nothing is added then
 */
export async function addDocument(
  library: Library,
  { name, file }: NamedFile,
  title?: string,
  signal?: AbortSignal
): Promise<Added> {
  const isBundled = isBundle(await bytesOf(file.slice(0, BUNDLE_START)));
  return isBundled ? addBundle(library, file, signal) : addImage(library, name, file, title, signal);
}

/** Keeps files in the library while `work` goes on; where it fails, those that no document uses are let go. */
async function keeping<T>(
  library: Library,
  signal: AbortSignal | undefined,
  work: (take: (file: Blob) => Promise<string>) => Promise<T>
): Promise<T> {
  try {
    return await tabs.adding(() => work((file) => takeFile(library, file, signal)));
  } catch (error) {
    await tabs.sweep(library).catch(() => undefined);
    throw error;
  }
}

/**
 * Puts an image file among the documents that nobody looks at yet, with its small picture.
 * @param at when it counts as made: the first of several stands first
 * @throws as `addDocument`
 */
export async function addUnseen(
  library: Library,
  given: NamedFile,
  at: number,
  signal?: AbortSignal
): Promise<void> {
  const { name, file } = given;
  if (isBundle(await bytesOf(file.slice(0, BUNDLE_START)))) {
    const { thumbnail } = await addBundle(library, file, signal);
    return thumbnail().catch(() => undefined);
  }
  await keeping(library, signal, async () => {
    const { hash, encoding, jpeg } = await takeUnseen(library, file, THUMBNAIL, signal);
    const own = ownFileName(name);
    const called = withoutExtension(own);
    const { id } = await put(
      library,
      newDocument(called, [{ name: called, file: own, encoding }]),
      { f1: hash },
      at
    );
    await keepThumbnail(library, id, jpeg);
  });
}

const addImage = (
  library: Library,
  name: string,
  file: Blob,
  title?: string,
  signal?: AbortSignal
): Promise<Added> =>
  keeping(library, signal, async (take) => {
    const hash = await take(file);
    const { frame } = await openFrame(hash, () => Promise.resolve(file));
    const own = ownFileName(name);
    const called = title ?? withoutExtension(own);
    const { encoding } = frame;
    return store(library, newDocument(called, [{ name: called, file: own, encoding }]), { f1: hash });
  });

interface TakenFrame {
  readonly name: string;
  readonly file: string;
  readonly hash: string;
  readonly frame: Frame;
}

const sizeOf = ({ width, height }: Frame): string => `${width} × ${height}`;

/** Exposures of one scene must be of one size, the darkest first. @throws DocumentError */
function scene(taken: readonly TakenFrame[]): readonly TakenFrame[] {
  const [first] = taken;
  const other = taken.find(({ frame }) => sizeOf(frame) !== sizeOf(first.frame));
  if (other) {
    throw new DocumentError(
      `“${first.file}” is ${sizeOf(first.frame)} pixels and “${other.file}” ${sizeOf(other.frame)}: exposures of one scene must be of one size.`
    );
  }
  return [...taken].sort((a, b) => brightness(a.frame) - brightness(b.frame));
}

/** Frames of the sky under the names of their filters, those of the commonest size. */
function frames(taken: readonly TakenFrame[]): { kept: readonly TakenFrame[]; aside: readonly TakenFrame[] } {
  const counts = new Map<string, number>();
  for (const { frame } of taken) counts.set(sizeOf(frame), (counts.get(sizeOf(frame)) ?? 0) + 1);
  const [[most]] = [...counts].sort((a, b) => b[1] - a[1]);
  const named: TakenFrame[] = [];
  const free = freeNames();
  for (const one of taken) {
    if (sizeOf(one.frame) !== most) continue;
    const { filter } = takenOf(one.frame.fits, one.file);
    named.push({ ...one, name: free((filter || one.name).slice(0, LONGEST_NAME)) });
  }
  return { kept: named, aside: taken.filter(({ frame }) => sizeOf(frame) !== most) };
}

/** What a person is to be told once a document is open, by its id. */
const toTell = new Map<string, string>();
export function takeTold(id: string): string {
  const text = toTell.get(id) ?? '';
  toTell.delete(id);
  return text;
}

/** Opens files one after another. @param refused told what can't be read, where the others are to be opened without it */
async function takenFrames(
  take: (file: Blob) => Promise<string>,
  given: readonly NamedFile[],
  signal?: AbortSignal,
  refused?: (file: string, error: Error) => void
): Promise<TakenFrame[]> {
  const taken: TakenFrame[] = [];
  const fileName = freeFileNames();
  for (const { name, file } of given) {
    try {
      const hash = await take(file);
      const { frame } = await openFrame(hash, () => Promise.resolve(file), signal);
      const own = fileName(name);
      taken.push({ name: withoutExtension(own), file: own, hash, frame });
    } catch (error) {
      if (!refused || !(error instanceof FileError)) throw error;
      refused(name, error);
    }
  }
  if (taken.length === 0) throw new FileError('None of the files could be opened.');
  return taken;
}

const objectOf = ({ frame, file }: TakenFrame): string => takenOf(frame.fits, file).object;

/** Frames by what they show; those that don't say go with the others where these show one thing. */
function byObject(taken: readonly TakenFrame[]): TakenFrame[][] {
  const objects = new Map<string, TakenFrame[]>();
  const unsaid: TakenFrame[] = [];
  for (const one of taken) {
    const object = objectOf(one).trim().toLowerCase();
    if (!object) unsaid.push(one);
    else objects.set(object, [...(objects.get(object) ?? []), one]);
  }
  if (objects.size <= 1) return [[...taken]];
  return [...objects.values(), ...(unsaid.length > 0 ? [unsaid] : [])];
}

/** One document of frames that belong together; those of the sky that are of another size are set aside and told. */
async function storeTogether(library: Library, taken: readonly TakenFrame[], title: string): Promise<Added> {
  const ofSky = taken.every(({ frame }) => frame.fits);
  const { kept, aside } = ofSky ? frames(taken) : { kept: scene(taken), aside: [] };
  const object = ofSky ? objectOf(kept[0]) : '';
  const document = newDocument(
    (object || title).slice(0, LONGEST_NAME),
    kept.map(({ name, file, frame: { encoding } }) => ({ name, file, encoding }))
  );
  const added = await store(
    library,
    document,
    Object.fromEntries(kept.map(({ hash }, i) => [`f${i + 1}`, hash]))
  );
  if (aside.length > 0) {
    const told = aside.map(({ file, frame }) => `“${file}” (${sizeOf(frame)})`).join(', ');
    toTell.set(added.stored.id, `Set aside, as of another size than ${sizeOf(kept[0].frame)}: ${told}.`);
  }
  return added;
}

/**
 * Puts exposures of one scene, or frames of one field of the sky, among the documents as one.
 * @throws FileError, StorageError, or DocumentError where exposures are not of one size; nothing is added then
 */
export const addExposures = (
  library: Library,
  given: readonly NamedFile[],
  title: string,
  signal?: AbortSignal
): Promise<Added> =>
  keeping(library, signal, async (take) =>
    storeTogether(library, await takenFrames(take, given, signal), title)
  );

/**
 * Puts frames of the sky among the documents: one for each object that they name.
 * @param refused told what can't be read or kept; the rest is opened
 * @throws FileError or StorageError; nothing is added then
 */
export const addFrames = (
  library: Library,
  given: readonly NamedFile[],
  signal: AbortSignal,
  refused: (file: string, error: Error) => void
): Promise<Added[]> =>
  keeping(library, signal, async (take) => {
    const fields = byObject(await takenFrames(take, given, signal, refused));
    const added: Added[] = [];
    for (const field of fields) {
      try {
        added.push(await storeTogether(library, field, field[0].name));
      } catch (error) {
        if (added.length === 0) throw error;
        refused(field.map(({ file }) => file).join(', '), error as Error);
      }
    }
    return added;
  });

const addBundle = (library: Library, file: Blob, signal?: AbortSignal): Promise<Added> =>
  keeping(library, signal, async (take) => {
    const { document, files } = await pool.runApart('unpack', { file }, { signal });
    const hashes: Record<string, string> = {};
    for (const frame of document.frames) hashes[frame.id] = await take(files.get(frame.id)!);
    for (const table of document.tables) hashes[table.id] = await takeTable(library, files.get(table.id)!);
    return store(library, document, hashes);
  });

async function put(
  library: Library,
  document: KrombaDocument,
  files: Record<string, string>,
  now = Date.now()
): Promise<StoredDocument> {
  const [picture] = document.pictures;
  const stored: StoredDocument = {
    id: crypto.randomUUID(),
    document,
    files,
    createdAt: now,
    modifiedAt: now,
    position: 0,
    selection: picture ? { picture: picture.id, step: picture.steps[0]?.id ?? null } : null,
    deletedAt: null
  };
  await library.add(stored);
  tabs.tell(stored.id);
  return stored;
}

async function store(
  library: Library,
  document: KrombaDocument,
  files: Record<string, string>
): Promise<Added> {
  const stored = await put(library, document, files);
  return { stored, thumbnail: () => renewThumbnail(library, stored) };
}

async function libraryFile(library: Library, hash: string): Promise<Blob> {
  const file = await library.file(hash);
  if (!file) throw new Error('A file is missing from this browser’s storage.');
  return file;
}

/** The tables of a document, by id. @throws FileError naming one that can't be read; what `file` throws */
export async function openTables(
  { document, files }: Pick<StoredDocument, 'document' | 'files'>,
  file: (hash: string) => Promise<Blob>
): Promise<ReadonlyMap<string, Table>> {
  const opened = new Map<string, Table>();
  for (const { id, name } of document.tables) {
    const hash = files[id];
    try {
      opened.set(id, await openTable(hash, () => file(hash)));
    } catch (error) {
      throw new FileError(`The table “${name}” can’t be read: ${(error as Error).message}`, { cause: error });
    }
  }
  return opened;
}

/** Lays down a small picture; whoever shows the document reads it anew. @throws StorageError */
async function keepThumbnail(library: Library, id: string, jpeg: Uint8Array): Promise<void> {
  await library.setThumbnail(id, new Blob([new Uint8Array(jpeg)], { type: 'image/jpeg' }));
  tabs.tell(id);
}

/** Small pictures that are being drawn, by document: what is asked for later takes the place of what was before it. */
const renewing = new Map<string, AbortController>();

/**
 * Draws the small picture of a document anew, of the picture that was worked on last; its frame must be open. One that is still
 * being drawn of the document as it was before is given up.
 * @throws DOMException where it is asked for again meanwhile, or takes too long; FileError, StorageError
 */
export async function renewThumbnail(
  library: Library,
  { id, document, files, selection }: StoredDocument
): Promise<void> {
  const picture = document.pictures.find((p) => p.id === selection?.picture) ?? document.pictures[0];
  if (!picture) return;
  renewing.get(id)?.abort();
  const mine = new AbortController();
  renewing.set(id, mine);
  try {
    const tables = await openTables({ document, files }, (hash) => libraryFile(library, hash));
    const ask = { ...new Resolver(document, files, tables).whole(picture), size: THUMBNAIL };
    const signal = AbortSignal.any([mine.signal, AbortSignal.timeout(WAIT)]);
    const jpeg = await pool.run('thumbnail', ask, { priority: 8, signal });
    mine.signal.throwIfAborted();
    await keepThumbnail(library, id, jpeg);
  } finally {
    if (renewing.get(id) === mine) renewing.delete(id);
  }
}
