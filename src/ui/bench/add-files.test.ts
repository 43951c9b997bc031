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
const afterGate = async (_: unknown, file: Blob, signal?: AbortSignal): Promise<string> => {
  const hash = await hashOf(file);
  await gate;
  signal?.throwIfAborted();
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
    const fits = hash.startsWith('hsky') ? { fits: { cards: [] } } : {};
    return Promise.resolve({ frame: { ...frame, ...fits }, notices: [], bytes: 9 });
  },
  openTable: async (_: string, file: () => Promise<Blob>) => ({
    title: (await (await file()).text()).slice(0, 4)
  }),
  takeFile: vi.fn(afterGate),
  takeTable: vi.fn(afterGate)
}));
const { addFiles, addFrames } = await import('./add-files');
const { BenchState } = await import('./bench.svelte');
const { addStep } = await import('./steps');
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
/** Puts a table into the document, and does nothing with it. @returns its id */
async function addTable(name: string, content: string): Promise<string> {
  const ids: string[] = [];
  await addFiles(session, { tables: [given(name, content)] }, (put, { tables }) => {
    ids.push(...tables);
    return session.change('Take a table', put);
  });
  return ids[0];
}
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
    const both = [addTable('warm.cube', 'Warm'), addTable('w.cube', 'Warm')];
    open();
    const [first, second] = await Promise.all(both);
    expect(second).toBe(first);
    expect(session.document.tables).toEqual([{ id: first, name: 'Warm', file: 'warm.cube' }]);
    expect(session.undoLabel).toBe('Take a table');
  });

  it('has a table at hand again that could not be read before, under the id it had', async () => {
    open();
    const id = await addTable('warm.cube', 'Warm');
    session.files.tables = new Map();
    session.files.contents.clear();
    expect(await addTable('again.cube', 'Warm')).toBe(id);
    expect(session.files.tables.get(id)?.title).toBe('Warm');
    expect(await session.files.contents.get('hWarm')?.text()).toBe('Warm');
    expect(session.document.tables).toHaveLength(1);
  });

  it('gives other names to tables and frames that come at the same time under one', async () => {
    const tables = ['Warm 1', 'Warm 2'].map((text) => addTable('x.cube', text));
    const frames = ['7', '8'].map((light) => addFrames(session, [given('kiln.png', light)]));
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
    const taken = addFrames(session, [given('late.png', '9')]);
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
    const taken = addFrames(session, [given('one-more.png', '9')]);
    open();
    await expect(taken).rejects.toThrow('A document takes at most 1000 frames.');
    expect(session.document.frames).toHaveLength(1000);
  });

  it('takes the darkest of several frames first, and none where one can’t be read', async () => {
    open();
    const { takeFile } = await import('../services');
    const { pictures: ids } = await addFrames(session, [given('day.png', '90'), given('night.png', '5')]);
    expect(ids.map((id) => session.document.pictures.find((p) => p.id === id)?.name)).toEqual([
      'night',
      'day'
    ]);
    const before = session.document;
    vi.mocked(takeFile).mockImplementationOnce(() => Promise.reject(new Error('Not a picture.')));
    await expect(addFrames(session, [given('a.png', '1')])).rejects.toThrow('Not a picture.');
    expect(session.document).toBe(before);
  });

  it('leaves frames of the sky in the order in which they were given', async () => {
    open();
    const bench = new BenchState(session);
    const files = [new File(['sky 90'], 'h.fits'), new File(['sky 5'], 'o.fits')];
    expect(await bench.addFrames(files)).toBe('');
    expect(session.document.pictures.map(({ name }) => name)).toEqual(['Kiln', 'H', 'O']);
    expect(session.notice).toBe('2 pictures were added.');
    // One that is none of the sky among them has them sorted.
    expect(await bench.addFrames([new File(['sky 80'], 's.fits'), new File(['7'], 'day.png')])).toBe('');
    expect(session.document.pictures.slice(3).map(({ name }) => name)).toEqual(['day', 'S']);
    expect(session.notice).toBe('2 pictures were added, the darkest first.');
  });

  it('takes none where it is cancelled, whatever else is coming in', async () => {
    vi.useFakeTimers();
    const bench = new BenchState(session);
    const cancelled = bench.addFrames([new File(['7'], 'late.png'), new File(['8'], 'later.png')]);
    const other = bench.addFrames([new File(['9'], 'other.png')]);
    vi.advanceTimersByTime(1000);
    vi.useRealTimers();
    const told = ['Adding “late.png” (1 of 2) …', 'Adding “other.png” …'];
    await vi.waitFor(() => expect(session.additions.lasting.map(({ what }) => what)).toEqual(told));
    session.additions.lasting[0].cancel();
    open();
    expect(await cancelled).toBe('');
    expect(session.notice).toBe('Adding was cancelled. Nothing was added.');
    expect(await other).toBe('');
    expect(filesOf()).toEqual(['kiln.png', 'other.png']);
    expect(session.refusal).toBe('');
  });

  it('takes what was coming in before the document is left', async () => {
    const { id, library } = session;
    const taken = addFrames(session, [given('late.png', '9')]);
    const closed = session.close();
    open();
    await Promise.all([taken, closed]);
    const { document } = (await library.load(id))!.stored;
    expect(document.frames.map(({ file }) => file)).toEqual(['kiln.png', 'late.png']);
  });
});

describe('a table that is chosen for a step', () => {
  it('is taken by that step, whatever is selected when it is read', async () => {
    addStep(session, 'lut');
    const [{ id }] = session.cursor.picture.steps;
    const taken = new BenchState(session).chooseTable(new File(['Warm'], 'warm.cube'));
    addStep(session, 'lut');
    open();
    expect(await taken).toBe('');
    expect(path()).toEqual(['lut Warm', 'lut undefined']);
    expect(session.cursor.stepId).not.toBe(id);
  });

  it('does not come in where that step is gone', async () => {
    addStep(session, 'lut');
    const taken = new BenchState(session).chooseTable(new File(['Warm'], 'warm.cube'));
    session.undo();
    open();
    expect(await taken).toBe(
      'The step that this table was for is not in the document any more. Nothing was added.'
    );
    expect(session.document.tables).toEqual([]);
    expect(session.redoLabel).toBe('Add lut');
    expect(session.refusal).toBe('');
  });
});

/** The ops of the path, the table of a LUT behind it. */
const path = (at = 0): string[] =>
  session.document.pictures[at].steps.map(({ op, params }) =>
    op === 'lut'
      ? `lut ${session.document.tables.find(({ id }) => id === (params as { table: string | null }).table)?.name}`
      : op
  );
const dropped = (...files: readonly (readonly [string, string])[]): Promise<void> =>
  new BenchState(session).takeFiles(files.map(([name, content]) => new File([content], name)));

describe('files that are dropped on the bench', () => {
  it('are steps where they are tables, one behind the other, and all one change', async () => {
    open();
    addStep(session, 'mix');
    addStep(session, 'invert');
    session.select(session.cursor.picture.steps[0].id);
    const files = [
      ...([
        ['warm.cube', 'Warm'],
        ['7.png', '7']
      ] as const),
      ...([
        ['cold.CUBE', 'Cold'],
        ['again.cube', 'Warm']
      ] as const)
    ];
    await dropped(...files);
    expect(session.refusal).toBe('');
    expect(session.notice).toBe('“7.png” is a picture of this document now.');
    expect(path()).toEqual(['mix', 'lut Warm', 'lut Cold', 'lut Warm', 'invert']);
    expect(session.cursor.stepId).toBe(session.cursor.picture.steps[3].id);
    expect(filesOf()).toEqual(['kiln.png', '7.png', 'warm.cube', 'cold.CUBE']);
    expect(session.undoLabel).toBe('Add 4 files');
    session.undo();
    expect(path()).toEqual(['mix', 'invert']);
    expect(filesOf()).toEqual(['kiln.png']);
  });

  it('change nothing where a table can’t be read, though another change was made meanwhile', async () => {
    addStep(session, 'lut');
    const { takeTable } = await import('../services');
    vi.mocked(takeTable).mockImplementationOnce(async () => {
      await gate;
      throw new Error('Line 3: “zero” is no number.');
    });
    const taking = dropped(['broken.cube', 'x'], ['warm.cube', 'Warm'], ['7.png', '7']);
    addStep(session, 'invert');
    open();
    await taking;
    expect(session.refusal).toBe('“broken.cube”: Line 3: “zero” is no number. Nothing was added.');
    expect(path()).toEqual(['lut undefined', 'invert']);
    expect(filesOf()).toEqual(['kiln.png']);
  });

  it('give no table to a step that is there already where no step may be added', async () => {
    open();
    addStep(session, 'lut');
    const before = session.document;
    session.presence.state = 'following';
    await dropped(['warm.cube', 'Warm']);
    expect(session.document).toBe(before);
    expect(session.refusal).toMatch(/^This document is edited in another tab\. .* Nothing was added\.$/);
  });

  it('stay on the picture they were dropped on, at the end of a path whose step is gone', async () => {
    addStep(session, 'mix');
    addStep(session, 'invert');
    const [mix, invert] = session.cursor.picture.steps;
    const taking = dropped(['warm.cube', 'Warm']);
    session.change('Another picture, and one step fewer', (draft) => {
      draft.pictures.push({ ...draft.pictures[0], id: 'p2', name: 'Other', steps: [] });
      draft.pictures[0].steps = [mix];
    });
    await session.showPicture('p2');
    open();
    await taking;
    expect(invert.op).toBe('invert');
    expect([path(0), path(1)]).toEqual([['mix', 'lut Warm'], []]);
    expect(session.cursor.stepId).toBeNull();
  });

  it('are refused where their picture is gone, and nothing of them stays', async () => {
    session.change('Another picture', (draft) => {
      draft.pictures.push({ ...draft.pictures[0], id: 'p2', name: 'Other' });
    });
    const taking = dropped(['warm.cube', 'Warm']);
    session.change('Remove a picture', (draft) => void draft.pictures.shift());
    session.cursor.pictureId = 'p2';
    open();
    await taking;
    expect(session.refusal).toBe(
      'The picture that this was for is not in the document any more. Nothing was added.'
    );
    expect(session.document.tables).toEqual([]);
    expect(session.files.tables.size).toBe(0);
  });
});
