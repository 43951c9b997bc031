import 'fake-indexeddb/auto';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { parseDocument } from '$core/document';
import { noiseFrame } from '$core/testing';
import { Library } from '$storage/library';
import type { Session as Opened } from './session.svelte';

vi.stubGlobal('window', globalThis);

/** What is taken is read only once the gate is open: all that waits there goes on in one moment. */
let open = (): void => undefined;
let gate = Promise.resolve();
const hashOf = async (file: Blob): Promise<string> => `h${await file.text()}`;
const afterGate = async (_: unknown, file: Blob): Promise<string> => {
  const hash = await hashOf(file);
  await gate;
  return hash;
};
vi.mock('../services', async () => ({
  tabs: (await import('../../storage/testing')).onlyTab(),
  keepFrames: vi.fn(),
  pool: { run: () => Promise.resolve(new Uint8Array(1)) },
  openFrame: (hash: string) => {
    const frame = noiseFrame(4, 3);
    // Brighter by the number at the end of the name.
    for (const { samples } of frame.levels) samples.fill(Number(/\d+$/.exec(hash)?.[0] ?? 0));
    return Promise.resolve({ frame, notices: [], bytes: 9 });
  },
  openTable: async (_: string, file: () => Promise<Blob>) => ({
    title: (await (await file()).text()).slice(0, 4)
  }),
  takeFile: vi.fn(afterGate),
  takeTable: vi.fn(afterGate)
}));
const { Session } = await import('./session.svelte');

const document = parseDocument({
  ...{ kromba: 1, kind: 'document', name: 'Kiln' },
  frames: [{ id: 'f1', name: 'kiln', file: 'kiln.png' }],
  pictures: [{ id: 'p1', name: 'Kiln', head: { kind: 'frame', frame: 'f1' } }]
});
let session: Opened;
let count = 0;
const given = (name: string, content: string): { name: string; file: Blob } => ({
  name,
  file: new Blob([content])
});
const filesOf = (): string[] => [...session.document.frames, ...session.document.tables].map((f) => f.file);

beforeEach(async () => {
  const library = await Library.open(`files-${count++}`);
  await library.add({
    ...{ id: 'd1', document, files: { f1: 'h60' }, createdAt: 1, modifiedAt: 1, position: 0 },
    ...{ selection: { picture: 'p1', step: null }, deletedAt: null }
  });
  session = await Session.open(library, 'd1', new AbortController().signal);
  gate = new Promise((done) => (open = done));
});

describe('the files of a document', () => {
  it('takes a table once that is taken twice at the same time', async () => {
    const used: string[] = [];
    const use = (_: unknown, id: string): void => void used.push(id);
    const both = [
      session.addTable(given('warm.cube', 'Warm'), use),
      session.addTable(given('w.cube', 'Warm'), use)
    ];
    open();
    const [first, second] = await Promise.all(both);
    expect(second).toBe(first);
    expect(used).toEqual([first, first]);
    expect(session.document.tables).toEqual([{ id: first, name: 'Warm', file: 'warm.cube' }]);
    expect(session.undoLabel).toBe('Add a table');
  });

  it('has a table at hand again that could not be read before, under the id it had', async () => {
    open();
    const id = await session.addTable(given('warm.cube', 'Warm'), () => undefined);
    session.files.tables = new Map();
    session.files.contents.clear();
    expect(await session.addTable(given('again.cube', 'Warm'), () => undefined)).toBe(id);
    expect(session.files.tables.get(id)?.title).toBe('Warm');
    expect(await session.files.contents.get('hWarm')?.text()).toBe('Warm');
    expect(session.document.tables).toHaveLength(1);
  });

  it('gives other names to tables and frames that come at the same time under one', async () => {
    const tables = ['Warm 1', 'Warm 2'].map((text) =>
      session.addTable(given('x.cube', text), () => undefined)
    );
    const frames = ['7', '8'].map((light) => session.addFrames([given('kiln.png', light)]));
    open();
    await Promise.all([...tables, ...frames]);
    expect(session.document.tables.map(({ name }) => name)).toEqual(['Warm', 'Warm, 2']);
    expect(session.document.pictures.map(({ name }) => name)).toEqual(['Kiln', 'kiln (2)', 'kiln (3)']);
    expect(filesOf().sort()).toEqual(['kiln (2).png', 'kiln (3).png', 'kiln.png', 'x (2).cube', 'x.cube']);
    const { hashes } = session.files;
    expect(Object.keys(hashes)).toHaveLength(5);
    expect(parseDocument(session.document)).toEqual(session.document);
  });

  it('takes none where the document may not be changed any more once it is read', async () => {
    const { hashes } = session.files;
    const taken = session.addFrames([given('late.png', '9')]);
    session.presence.state = 'following';
    open();
    await expect(taken).rejects.toThrow('This document is edited in another tab. “Edit here” takes it over.');
    expect(session.files.hashes).toBe(hashes);
    expect(session.document).toEqual(document);
    expect(session.refusal).toBe('');
  });

  it('takes none where the document would refuse it, and says why', async () => {
    const full = structuredClone({ ...document, frames: [], pictures: [] } as object) as typeof document;
    const frames = Array.from({ length: 1000 }, (_, i) => ({ id: `f${i}`, name: `k${i}`, file: `${i}.png` }));
    const pictures = [{ id: 'p1', name: 'Kiln', head: { kind: 'frame', frame: 'f1' }, steps: [] }];
    session.document = { ...full, frames, pictures } as unknown as typeof document;
    const taken = session.addFrames([given('one-more.png', '9')]);
    open();
    await expect(taken).rejects.toThrow('A document takes at most 1000 frames.');
    expect(session.document.frames).toHaveLength(1000);
  });

  it('takes the darkest of several frames first, and none where one can’t be read', async () => {
    open();
    const { takeFile } = await import('../services');
    const ids = await session.addFrames([given('day.png', '90'), given('night.png', '5')]);
    expect(ids.map((id) => session.document.pictures.find((p) => p.id === id)?.name)).toEqual([
      'night',
      'day'
    ]);
    const before = session.document;
    vi.mocked(takeFile).mockImplementationOnce(() => Promise.reject(new Error('Not a picture.')));
    await expect(session.addFrames([given('a.png', '1')])).rejects.toThrow('Not a picture.');
    expect(session.document).toBe(before);
  });
});
