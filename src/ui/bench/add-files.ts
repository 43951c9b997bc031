import type { Encoding } from '$core/colour';
import { freeNames, LONGEST_NAME } from '$core/document';
import type { Recipe } from '$core/document/history';
import { namesBeside, withoutExtension } from '$core/files/file-names';
import { takenOf } from '$core/files/fits/told';
import { brightness, type Frame } from '$core/raster/frame';
import type { Library } from '$storage/library';
import type { NamedFile } from '../add-document';
import { openFrame, openTable, tabs, takeFile, takeTable } from '../services';
import type { HeldTable, TakenFile } from './document-files.svelte';
import { newId } from './names';
import type { Session } from './session.svelte';

interface TakenFrame extends TakenFile {
  /** Of its picture. */
  readonly picture: string;
  readonly encoding: Encoding;
  /** What it is called, with its file's name in the document. */
  readonly title: (file: string) => string;
  readonly light: number;
  readonly ofSky: boolean;
}

type TakenTable = TakenFile & HeldTable;

/** Takes an image file for a frame. @throws FileError, StorageError; what `fits` throws */
async function takeFrame(
  library: Library,
  { name: given, file }: NamedFile,
  fits: (frame: Frame) => void
): Promise<TakenFrame> {
  const hash = await takeFile(library, file);
  const { frame } = await openFrame(hash, () => Promise.resolve(file));
  fits(frame);
  const { fits: header, encoding } = frame;
  const title = (own: string): string => (header && takenOf(header, own).filter) || withoutExtension(own);
  const ofSky = header !== undefined;
  const light = brightness(frame);
  return { id: newId('f'), picture: newId('p'), hash, file, given, encoding, title, light, ofSky };
}

/** Takes a file for a table. @throws FileError or StorageError */
async function takeTableFile(library: Library, { name: given, file }: NamedFile): Promise<TakenTable> {
  const hash = await takeTable(library, file);
  const table = await openTable(hash, () => Promise.resolve(file));
  return { id: newId('t'), hash, file, given, table };
}

/** Why the document would not take the last change. */
function refused(session: Session): Error {
  const error = new Error(`${session.refusal.replace(/\.$/, '')}.`);
  session.refusal = '';
  return error;
}

/** Until a document that names them is written, nobody may take away the files that `work` brings. */
function adding<T>(session: Session, work: () => Promise<T>): Promise<T> {
  if (!session.mayChange()) return Promise.reject(refused(session));
  return tabs.adding(async () => {
    const added = await work();
    await session.saving.flush();
    return added;
  });
}

/** Files, in their order. With several it is told of which a problem is. */
async function readEach<T>(
  files: readonly NamedFile[],
  isOne: boolean,
  read: (file: NamedFile) => Promise<T>
): Promise<T[]> {
  const all: T[] = [];
  for (const file of files) {
    const told = (error: Error): never => {
      throw isOne ? error : new Error(`“${file.name}”: ${error.message}`, { cause: error });
    };
    all.push(await read(file).catch(told));
  }
  return all;
}

/** The change that names files which were taken. */
const putting =
  (tables: readonly TakenTable[], frames: readonly TakenFrame[]): Recipe =>
  (draft) => {
    const fileName = namesBeside(draft.frames, draft.tables);
    const [tableName, pictureName] = [draft.tables, draft.pictures].map(freeNames);
    for (const { id, given, table } of tables) {
      const file = fileName(given);
      // As the table says it is called, where it does.
      const title = table.title.trim() || withoutExtension(file);
      draft.tables.push({ id, name: tableName(title.slice(0, LONGEST_NAME)), file });
    }
    for (const { id, picture, given, title, encoding } of frames) {
      const file = fileName(given);
      const name = title(file);
      draft.frames.push({ id, name, file, encoding });
      const head = { kind: 'frame' as const, frame: id };
      draft.pictures.push({ id: picture, name: pictureName(name), head, steps: [] });
    }
  };

interface Given {
  readonly frames?: readonly NamedFile[];
  readonly tables?: readonly NamedFile[];
}

/** What came into a document. */
export interface Added {
  /** Ids of the pictures of the frames, in their order. */
  readonly pictures: readonly string[];
  /** They stand the darkest first; else as they were given. */
  readonly byLight: boolean;
}

/**
 * Puts files into the document that is worked on, all in one change: image files as frames with a picture of their own
 * each, colour look-up tables where they are not there yet.
 * @param make makes the change, of which `put` is the beginning, and says whether it was made; it has the tables' ids
 * @param fits looks at each frame once it is read, and throws where it must not come in
 * @throws Error in words for a person, which says of which of several files it is; nothing is added then
 */
export function addFiles(
  session: Session,
  { frames = [], tables = [] }: Given,
  make: (put: Recipe, tables: readonly string[]) => boolean,
  fits: (frame: Frame) => void = () => undefined
): Promise<Added> {
  const isOne = frames.length + tables.length === 1;
  return adding(session, async () => {
    const readTables = await readEach(tables, isOne, (file) => takeTableFile(session.library, file));
    const readFrames = await readEach(frames, isOne, (file) => takeFrame(session.library, file, fits));
    // Frames of the sky stay as they were given.
    const byLight = !readFrames.every(({ ofSky }) => ofSky);
    if (byLight) readFrames.sort((a, b) => a.light - b.light);
    // Looked for only now: others may have come while these were read.
    const known = new Map(session.document.tables.map(({ id }) => [session.files.hashes[id], id]));
    const fresh: TakenTable[] = [];
    const held = readTables.map((table) => {
      const id = known.get(table.hash);
      if (id === undefined) {
        known.set(table.hash, table.id);
        fresh.push(table);
      }
      return { ...table, id: id ?? table.id };
    });
    const letGo = session.files.hold([...held, ...readFrames]);
    const ids = held.map(({ id }) => id);
    if (!make(putting(fresh, readFrames), ids)) {
      letGo();
      throw refused(session);
    }
    return { pictures: readFrames.map(({ picture }) => picture), byLight };
  });
}

/** Puts image files into the document that is worked on as frames; see `addFiles`. */
export const addFrames = (
  session: Session,
  frames: readonly NamedFile[],
  fits?: (frame: Frame) => void
): Promise<Added> => {
  const label = frames.length === 1 ? 'Add a frame' : `Add ${frames.length} frames`;
  return addFiles(session, { frames }, (put) => session.change(label, put), fits);
};
