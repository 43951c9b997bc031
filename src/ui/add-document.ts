import { parseDocument, type KrombaDocument } from '$core/document';
import { isBundle, unpackBundle } from '$core/files/bundle';
import type { Library, StoredDocument } from '$storage/library';
import { pool, takeFile } from './services';

const THUMBNAIL = 480;

/** A document for one picture: its frame, and a path with a mix that changes nothing yet. */
function newDocument(name: string, file: string): KrombaDocument {
  return parseDocument({
    kromba: 1,
    kind: 'document',
    name,
    frames: [{ id: 'f1', name, file }],
    pictures: [
      { id: 'p1', name, head: { kind: 'frame', frame: 'f1' }, steps: [{ id: 's1', op: 'mix', params: {} }] }
    ]
  });
}

export interface Added {
  readonly stored: StoredDocument;
  /** Done when the light table's small picture is drawn. */
  readonly thumbnail: Promise<void>;
}

const withoutExtension = (name: string): string => name.replace(/\.[^.]+$/, '') || name;

/**
 * Puts a file on the light table: an image becomes a document of its own, a bundle the document it holds.
 * @throws FileError, DocumentError or StorageError; nothing is added then
 */
export async function addDocument(
  library: Library,
  file: File | { name: string; bytes: Uint8Array<ArrayBuffer> },
  title?: string
): Promise<Added> {
  const bytes = file instanceof File ? new Uint8Array(await file.arrayBuffer()) : file.bytes;
  return isBundle(bytes) ? addBundle(library, bytes) : addImage(library, file.name, bytes, title);
}

async function addImage(
  library: Library,
  name: string,
  bytes: Uint8Array<ArrayBuffer>,
  title?: string
): Promise<Added> {
  const hash = await takeFile(library, bytes);
  const safe = name.replace(/[\\/]/g, '_') || 'picture';
  return store(library, newDocument(title ?? withoutExtension(safe), safe), { f1: hash });
}

async function addBundle(library: Library, bytes: Uint8Array): Promise<Added> {
  const { document, files } = await unpackBundle(bytes);
  const hashes: Record<string, string> = {};
  for (const frame of document.frames) {
    const content = new Uint8Array(files.get(frame.file)!);
    hashes[frame.id] = await takeFile(library, content);
  }
  return store(library, document, hashes);
}

async function store(
  library: Library,
  document: KrombaDocument,
  files: Record<string, string>
): Promise<Added> {
  const now = Date.now();
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
  await library.save(stored, [], 0);
  // The light table can wait for its small picture; the one who opened this one should not.
  const thumbnail = renewThumbnail(library, stored);
  thumbnail.catch(() => undefined);
  return { stored, thumbnail };
}

/** Draws the light table's small picture of a document anew; its frame must be open. */
export async function renewThumbnail(
  library: Library,
  { id, document, files }: StoredDocument
): Promise<void> {
  const [picture] = document.pictures;
  if (!picture || picture.head.kind !== 'frame') return;
  const steps = picture.steps.filter((step) => step.enabled);
  const ask = { frame: files[picture.head.frame], steps, pins: document.pins, size: THUMBNAIL };
  const jpeg = await pool.run('thumbnail', ask, { priority: 8 });
  await library.setThumbnail(id, new Blob([new Uint8Array(jpeg)], { type: 'image/jpeg' }));
}
