import type { Encoding } from '$core/colour';
import { freeNames, LONGEST_NAME } from '$core/document';
import type { Recipe } from '$core/document/history';
import { freeFileNames, withoutExtension } from '$core/files/file-names';
import { takenOf } from '$core/files/fits/told';
import { brightness, type Frame } from '$core/raster/frame';
import type { Library } from '$storage/library';
import type { NamedFile } from '../add-document';
import { openFrame, openTable, tabs, takeFile, takeTable } from '../services';
import type { Addition } from './additions.svelte';
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

/** Takes an image file for a frame. @throws FileError, StorageError, AbortError; what `check` throws */
async function takeFrame(
  library: Library,
  { name: given, file }: NamedFile,
  signal: AbortSignal,
  check: (frame: Frame) => void
): Promise<TakenFrame> {
  const hash = await takeFile(library, file, signal);
  const { frame } = await openFrame(hash, () => Promise.resolve(file));
  check(frame);
  const { fits: header, encoding } = frame;
  const title = (own: string): string => (header && takenOf(header, own).filter) || withoutExtension(own);
  const ofSky = header !== undefined;
  const light = brightness(frame);
  return { id: newId('f'), picture: newId('p'), hash, file, given, encoding, title, light, ofSky };
}

/** Takes a file for a table. @throws FileError, StorageError or AbortError */
async function takeTableFile(
  library: Library,
  { name: given, file }: NamedFile,
  signal: AbortSignal
): Promise<TakenTable> {
  const hash = await takeTable(library, file, signal);
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
function adding<T>(
  session: Session,
  files: readonly NamedFile[],
  work: (addition: Addition) => Promise<T>
): Promise<T> {
  if (!session.mayChange()) return Promise.reject(refused(session));
  const what = files.length === 1 ? `“${files[0].name}”` : `${files.length} files`;
  return session.additions.run(`Adding ${what} …`, (addition) =>
    tabs.adding(async () => {
      const added = await work(addition);
      addition.comeIn();
      await session.saving.flush();
      return added;
    }, addition.signal)
  );
}

/** What reads files one after another, `count` in all: of several it is told which is read, and of which a problem is. */
function reader(addition: Addition, count: number) {
  let at = 0;
  return async <T>(files: readonly NamedFile[], read: (file: NamedFile) => Promise<T>): Promise<T[]> => {
    const all: T[] = [];
    for (const file of files) {
      if (count > 1) addition.what = `Adding “${file.name}” (${++at} of ${count}) …`;
      try {
        all.push(await read(file));
      } catch (error) {
        addition.signal.throwIfAborted();
        if (count === 1) throw error;
        throw new Error(`“${file.name}”: ${(error as Error).message}`, { cause: error });
      }
      addition.signal.throwIfAborted();
    }
    return all;
  };
}

/** The change that names files which were taken. */
const putting =
  (tables: readonly TakenTable[], frames: readonly TakenFrame[]): Recipe =>
  (draft) => {
    const fileName = freeFileNames(draft.frames, draft.tables);
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

/** Ids of what comes into a document, in the order in which it was given, or the frames by their light. */
export interface Ids {
  readonly tables: readonly string[];
  /** Of the frames' pictures. */
  readonly pictures: readonly string[];
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
 * @param make makes the change, of which `put` is the beginning, and says whether it was made
 * @param check looks at each frame once it is read, and throws where it must not come in
 * @throws Error in words for a person, which says of which of several files it is, AbortError where it was cancelled; nothing
 * is added then
 */
export function addFiles(
  session: Session,
  { frames = [], tables = [] }: Given,
  make: (put: Recipe, ids: Ids) => boolean,
  check: (frame: Frame) => void = () => undefined
): Promise<Added> {
  const { library } = session;
  const files = [...tables, ...frames];
  return adding(session, files, async (addition) => {
    const { signal } = addition;
    const readEach = reader(addition, files.length);
    const readTables = await readEach(tables, (file) => takeTableFile(library, file, signal));
    const readFrames = await readEach(frames, (file) => takeFrame(library, file, signal, check));
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
    const pictures = readFrames.map(({ picture }) => picture);
    if (!make(putting(fresh, readFrames), { tables: held.map(({ id }) => id), pictures })) {
      letGo();
      throw refused(session);
    }
    return { pictures, byLight };
  });
}

/** Puts image files into the document that is worked on as frames; see `addFiles`. */
export const addFrames = (session: Session, frames: readonly NamedFile[]): Promise<Added> => {
  const label = frames.length === 1 ? 'Add a frame' : `Add ${frames.length} frames`;
  return addFiles(session, { frames }, (put) => session.change(label, put));
};
