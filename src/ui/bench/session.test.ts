import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, it, vi, type Mock } from 'vitest';
import { allSteps, findStep, parseDocument, stepsAsText, type Step } from '$core/document';
import type { MixParams } from '$core/ops/mix';
import { Library, type StoredDocument } from '$storage/library';
import type { Session as Opened } from './session.svelte';

vi.stubGlobal('window', globalThis);
vi.mock('../services', async () => ({
  tabs: (await import('../../storage/testing')).onlyTab(),
  keepFrames: vi.fn(),
  pool: { run: vi.fn(() => Promise.resolve(new Uint8Array(1))) },
  openFrame: vi.fn(() =>
    Promise.resolve({
      frame: { width: 4, height: 3, levels: [{}], alpha: false, missing: 0 },
      notices: [],
      bytes: 9
    })
  )
}));
const { Session } = await import('./session.svelte');
const {
  addStep,
  duplicateStep,
  groupSteps,
  moveInto,
  moveStep,
  orderSteps,
  pasteSteps,
  removeStep,
  renameStep,
  stepsBetween,
  takeApart,
  toggleStep
} = await import('./steps');
const { duplicatePicture, markFavourite, movePicture, removePicture, takeVersionApart, versionFrom } =
  await import('./versions');
const { changePin, dropPin, removePin } = await import('./pins');
const { stepRemoval } = await import('./removal');
const { takeStarsApart } = await import('./stars-apart');
const { renewThumbnail } = await import('../add-document');
const { pool } = await import('../services');

const stored: StoredDocument = {
  id: 'd1',
  document: parseDocument({
    kromba: 1,
    kind: 'document',
    name: 'Jug',
    frames: [{ id: 'f1', name: 'jug', file: 'jug.png' }],
    pictures: [
      {
        id: 'p1',
        name: 'Jug',
        head: { kind: 'frame', frame: 'f1' },
        steps: [{ id: 's1', op: 'mix', params: {} }]
      }
    ]
  }),
  files: { f1: 'hash' },
  createdAt: 1,
  modifiedAt: 1,
  position: 0,
  selection: { picture: 'p1', step: 's1' },
  deletedAt: null
};

let library: Library;
let count = 0;
const open = (): Promise<Opened> => Session.open(library, 'd1', new AbortController().signal);
const setRow = (session: Opened, weight: number, gesture?: string): boolean =>
  session.changeStep(
    'Mix green',
    (step) => ((step.params as MixParams).rows['g'] = { g: 1, b: weight }),
    gesture
  );
const weight = (session: Opened): number | undefined =>
  (session.cursor.picture.steps[0].params as MixParams).rows['g']?.['b'];

beforeEach(async () => {
  library = await Library.open(`session-${count++}`);
  await library.add(stored);
});
afterEach(() => library.close());

describe('a session', () => {
  it('undoes and redoes each thing a person did', async () => {
    const session = await open();
    setRow(session, 0.2);
    setRow(session, 0.4);
    expect(session.undoLabel).toBe('Mix green');
    session.undo();
    expect(weight(session)).toBe(0.2);
    session.undo();
    expect(weight(session)).toBeUndefined();
    expect(session.undoLabel).toBeNull();
    session.undo();
    session.redo();
    session.redo();
    session.redo();
    expect(weight(session)).toBe(0.4);
    expect(session.redoLabel).toBeNull();
  });

  it('makes one entry of a drag, and none of a drag that comes back', async () => {
    const session = await open();
    for (const w of [0.1, 0.2, 0.3]) setRow(session, w, 'g b');
    session.endGesture();
    setRow(session, 0.5, 'g b');
    session.undo();
    expect(weight(session)).toBe(0.3);
    session.undo();
    expect(weight(session)).toBeUndefined();
  });

  it('forgets what was undone once something else is done', async () => {
    const session = await open();
    setRow(session, 0.2);
    setRow(session, 0.4);
    session.undo();
    setRow(session, 0.9);
    expect(session.redoLabel).toBeNull();
    session.undo();
    expect(weight(session)).toBe(0.2);
  });

  it('finds document and history again after it was closed', async () => {
    const session = await open();
    setRow(session, 0.2);
    setRow(session, 0.4);
    session.undo();
    session.select(null);
    await session.close();
    const again = await open();
    expect(weight(again)).toBe(0.2);
    expect([again.cursor.stepId, again.undoLabel, again.redoLabel]).toEqual([null, 'Mix green', 'Mix green']);
    again.redo();
    expect(weight(again)).toBe(0.4);
  });

  it('is saved within a second, also while a drag goes on', async () => {
    const session = await open();
    for (let i = 1; i <= 8; i++) {
      setRow(session, i / 10, 'g b');
      await new Promise((resolve) => setTimeout(resolve, 60));
    }
    const kept = (await library.load('d1'))!.stored.document.pictures[0].steps[0].params as MixParams;
    expect(kept.rows['g']['b']).toBeGreaterThan(0.1);
    await session.saving.flush();
    expect(session.saving.state).toBe('saved');
  });

  it('draws the small picture of what has none yet after the picture itself, and no other', async () => {
    const has = (): Promise<Blob | null> => library.thumbnail('d1');
    const first = await open();
    expect(await has()).toBeNull();
    await vi.waitFor(async () => expect(await has()).not.toBeNull(), 4000);
    await first.close();
    const run = vi.mocked(pool.run);
    run.mockClear();
    const again = await open();
    await new Promise((resolve) => setTimeout(resolve, 1800));
    expect(run).not.toHaveBeenCalled();
    // Nor does it come later where it is left before.
    await library.add({ ...stored, id: 'd2' });
    const brief = await Session.open(library, 'd2', new AbortController().signal);
    await brief.close();
    await again.close();
    const drawn = run.mock.calls.length;
    expect(drawn).toBe(2);
    await new Promise((resolve) => setTimeout(resolve, 1800));
    expect(run).toHaveBeenCalledTimes(drawn);
  });

  it('keeps the newest small picture, also where the one before it is drawn after it', async () => {
    const run = vi.mocked(pool.run) as unknown as Mock<() => Promise<Uint8Array>>;
    const drawn: ((jpeg: Uint8Array) => void)[] = [];
    const draw = (): Promise<Uint8Array> => new Promise((resolve) => void drawn.push(resolve));
    run.mockImplementationOnce(draw).mockImplementationOnce(draw);
    const older = renewThumbnail(library, stored);
    const newer = renewThumbnail(library, stored);
    await vi.waitFor(() => expect(drawn.length).toBe(2));
    drawn[1](new Uint8Array([2]));
    await newer;
    drawn[0](new Uint8Array([1]));
    await expect(older).rejects.toThrow(/abort/i);
    expect(new Uint8Array(await (await library.thumbnail(stored.id))!.arrayBuffer())).toEqual(
      new Uint8Array([2])
    );
  });

  it('says that saving failed, keeps the change, and saves it the next time', async () => {
    const session = await open();
    const save = vi.spyOn(library, 'save').mockRejectedValueOnce(new Error('The disk is full.'));
    setRow(session, 0.2);
    await session.saving.flush();
    expect([session.saving.state, session.saving.problem]).toEqual(['failed', 'The disk is full.']);
    expect(weight(session)).toBe(0.2);
    await session.saving.flush();
    expect(session.saving.state).toBe('saved');
    save.mockRestore();
    expect((await library.load('d1'))!.history).toHaveLength(1);
  });

  it('adds, switches and removes steps, with the places that the panes need', async () => {
    const session = await open();
    addStep(session, 'mix');
    expect(session.cursor.picture.steps).toHaveLength(2);
    const [first, second] = session.cursor.picture.steps;
    expect([session.cursor.into, session.cursor.outOf]).toEqual([
      { before: second.id },
      { after: second.id }
    ]);
    expect(session.cursor.stepsBefore).toEqual([first]);
    toggleStep(session, session.cursor.picture.steps[0]);
    expect(session.cursor.stepsBefore).toEqual([]);
    expect(session.cursor.active.map(({ id }) => id)).toEqual([second.id]);
    removeStep(session, session.cursor.picture.steps[1]);
    expect([session.cursor.stepId, session.cursor.active.length]).toEqual(['s1', 0]);
    session.undo();
    session.undo();
    session.undo();
    expect(session.cursor.picture.steps.map((s) => s.id)).toEqual(['s1']);
    expect(session.cursor.picture.steps[0].enabled).toBe(true);
  });

  it('selects the step before one that is gone by undo, and that again when it is there again', async () => {
    const session = await open();
    addStep(session, 'invert');
    addStep(session, 'curves');
    const [, invert, curves] = session.cursor.picture.steps.map(({ id }) => id);
    const selected = (): string | null => session.cursor.stepId;
    expect(selected()).toBe(curves);
    session.undo();
    expect([selected(), session.cursor.outOf]).toEqual([invert, { after: invert }]);
    session.undo();
    expect(selected()).toBe('s1');
    session.redo();
    expect(selected()).toBe(invert);
    session.redo();
    expect(selected()).toBe(curves);
    // What was chosen since stays chosen.
    session.undo();
    session.select('s1');
    session.redo();
    expect(selected()).toBe('s1');
    // Inside a group as well; of a group that is gone, what it held.
    session.select(invert);
    groupSteps(session, [session.cursor.step!]);
    session.select(invert);
    duplicateStep(session, session.cursor.step!);
    expect(selected()).not.toBe(invert);
    session.undo();
    expect(selected()).toBe(invert);
    session.select(session.cursor.picture.steps[1].id);
    session.undo();
    expect(selected()).toBe(invert);
    // Nothing stands before the first: the picture as it came.
    session.select(null);
    addStep(session, 'straighten');
    expect(session.cursor.step?.op).toBe('straighten');
    session.undo();
    expect(selected()).toBeNull();
  });

  it('says what is missing', async () => {
    const { openFrame } = await import('../services');
    vi.mocked(openFrame).mockImplementationOnce(async (_, file) => {
      await file();
      throw new Error('not reached');
    });
    await expect(open()).rejects.toThrow('The file “jug.png” is missing from this browser’s storage.');
    const elsewhere = Session.open(library, 'd2', new AbortController().signal);
    await expect(elsewhere).rejects.toThrow('not in this browser');
  });

  it('keeps steps that move pixels in front, wherever they are put', async () => {
    const session = await open();
    addStep(session, 'blur');
    addStep(session, 'straighten');
    const names = (): string[] => session.cursor.picture.steps.map((s) => s.op);
    expect(names()).toEqual(['straighten', 'mix', 'blur']);
    const [straighten, mix, blur] = session.cursor.picture.steps;
    moveStep(session, straighten, 1);
    expect(names()).toEqual(['straighten', 'mix', 'blur']);
    orderSteps(session, [blur.id, straighten.id, mix.id]);
    expect(names()).toEqual(['straighten', 'blur', 'mix']);
    session.undo();
    expect(names()).toEqual(['straighten', 'mix', 'blur']);
  });

  it('copies a path as text and pastes it with ids of its own', async () => {
    const session = await open();
    addStep(session, 'tint');
    renameStep(session, session.cursor.step!, '  sepia ');
    const text = stepsAsText(session.document, 'Jug', session.cursor.picture.steps);
    expect(pasteSteps(session, text)).toBe(2);
    const { steps } = session.cursor.picture;
    expect(steps.map((s) => s.name ?? s.op)).toEqual(['mix', 'sepia', 'mix', 'sepia']);
    expect(new Set(steps.map((s) => s.id)).size).toBe(4);
    duplicateStep(session, steps[1]);
    expect(session.cursor.step?.name).toBe('sepia');
    expect(() => pasteSteps(session, 'a list of things')).toThrow('The clipboard holds no steps.');
    const bad = text.replace('"saturation":25', '"saturation":2500');
    expect(() => pasteSteps(session, bad)).toThrow('$.steps[1].params.saturation: must be at most 100 %');
    expect(session.cursor.picture.steps).toHaveLength(5);
  });

  it('makes versions of a picture and takes them away again', async () => {
    const session = await open();
    duplicatePicture(session);
    duplicatePicture(session);
    expect(session.document.pictures.map((p) => p.name)).toEqual(['Jug', 'Jug, 2', 'Jug, 3']);
    expect(session.cursor.picture.name).toBe('Jug, 3');
    setRow(session, 0.7);
    await session.showPicture('p1');
    expect(weight(session)).toBeUndefined();
    await removePicture(session, 'p1');
    expect(session.document.pictures).toHaveLength(2);
    expect(session.cursor.picture.name).toBe('Jug, 2');
  });

  it('takes stars apart: a picture of them by the same path, with its pins, and a step that lays them over; once in the history', async () => {
    const session = await open();
    dropPin(session, { onFrame: { x: 3, y: 2 } }, 'neutral');
    addStep(session, 'stars');
    const step = session.cursor.step!;
    addStep(session, 'blur');
    session.select(step.id);
    takeStarsApart(session, step);
    const [picture, stars] = session.document.pictures;
    expect(picture.steps.map(({ op }) => op)).toEqual(['mix', 'stars', 'blur', 'lay']);
    expect(picture.steps[3]).toMatchObject({
      params: { from: { picture: stars.id } },
      blend: { mode: 'screen' }
    });
    expect(stars.name).toBe('Jug, stars');
    expect(stars.steps.map(({ op }) => op)).toEqual(['mix', 'stars', 'levels']);
    expect(stars.steps[1].params).toMatchObject({ keep: 'stars' });
    expect(stars.steps.some(({ id }) => picture.steps.some((own) => own.id === id))).toBe(false);
    expect(session.document.pins.map((pin) => pin.picture)).toEqual([picture.id, stars.id]);
    session.undo();
    expect(session.document.pictures).toHaveLength(1);
    expect(session.document.pins).toHaveLength(1);
  });

  it('drops, changes and removes pins, each once in the history', async () => {
    const session = await open();
    const id = dropPin(session, { onFrame: { x: 3.5, y: 2.5 } }, 'want');
    expect(session.document.pins[0]).toMatchObject({ id, name: 'pin 1', x: 3, y: 2, role: 'want' });
    for (const x of [4, 5, 6]) changePin(session, id, 'Move a pin', { x }, 'move');
    session.undo();
    expect(session.document.pins[0].x).toBe(3);
    removePin(session, id);
    expect(session.document.pins).toEqual([]);
    session.undo();
    expect(session.document.pins).toHaveLength(1);
  });

  it('does not grow past what would be read again', async () => {
    const session = await open();
    const one = stepsAsText(session.document, 'Mix', session.cursor.picture.steps);
    const look = JSON.parse(one) as { steps: object[] };
    look.steps = Array.from({ length: 499 }, (_, i) => ({ ...look.steps[0], id: `m${i}` }));
    expect(pasteSteps(session, JSON.stringify(look))).toBe(499);
    expect(pasteSteps(session, one)).toBe(0);
    expect(session.refusal).toBe('The path of “Jug” would have 501 steps, and takes at most 500.');
    expect(session.cursor.picture.steps).toHaveLength(500);
    await session.saving.flush();
    expect((await open()).cursor.picture.steps).toHaveLength(500);
  });

  it('keeps pins with their picture, copies them with it, and says what else a shared one moves', async () => {
    const session = await open();
    addStep(session, 'balance', { params: { method: 'pins' } });
    const spot = { onFrame: { x: 1, y: 1 } };
    const own = dropPin(session, spot);
    duplicatePicture(session);
    await vi.waitFor(() => expect(session.cursor.picture.name).toBe('Jug, 2'));
    expect(session.cursor.pins.map((p) => p.name)).toEqual(['pin 1']);
    expect(session.cursor.pins[0].id).not.toBe(own);
    // Its own pin moves nothing elsewhere.
    changePin(session, session.cursor.pins[0].id, 'Move', { x: 2 });
    expect(session.notice).toBe('');
    expect(session.document.pins.map((p) => p.x)).toEqual([1, 2]);
    changePin(session, session.cursor.pins[0].id, 'Share', { picture: undefined });
    expect(session.notice).toBe('The pin belongs to all pictures: “Balance” of “Jug” was solved anew too.');
    session.undo();
    expect(session.notice).toBe(
      'The pin belonged to all pictures: “Balance” of “Jug” was solved anew without it.'
    );
    session.redo();
    expect(session.notice).toBe('The pin belongs to all pictures: “Balance” of “Jug” was solved anew too.');
    changePin(session, session.cursor.pins.at(-1)!.id, 'Keep', { picture: session.cursor.picture.id });
    expect(session.notice).toBe(
      'The pin belonged to all pictures: “Balance” of “Jug” was solved anew without it.'
    );
    session.undo();
    session.notice = '';
    // One that is only read moves nothing.
    const read = dropPin(session, spot, 'read');
    changePin(session, read, 'Share', { picture: undefined });
    changePin(session, read, 'Move', { x: 3 });
    expect(session.notice).toBe('');
    await removePicture(session, session.document.pictures[0].id);
    expect(session.document.pins.some((p) => p.id === own)).toBe(false);
    session.undo();
    expect(session.document.pins.some((p) => p.id === own)).toBe(true);
  });
});

describe('groups in a path', () => {
  const names = (steps: readonly { op: string; params: object }[]): unknown[] =>
    steps.map(({ op, params }) => (op === 'group' ? names((params as { steps: [] }).steps) : op));
  const tree = (session: Opened): unknown[] => names(session.cursor.picture.steps);

  async function withSteps(...ops: string[]): Promise<Opened> {
    const session = await open();
    for (const op of ops) addStep(session, op);
    return session;
  }

  it('fold chosen steps, select the group, and are taken apart again, each by one undo', async () => {
    const session = await withSteps('invert', 'tint', 'blur');
    const [, invert, tint] = session.cursor.picture.steps;
    groupSteps(session, stepsBetween(session.cursor.picture.steps, tint.id, invert.id));
    expect(tree(session)).toEqual(['mix', ['invert', 'tint'], 'blur']);
    expect(session.cursor.step?.op).toBe('group');
    session.changeStep('Fade', (step) => (step.blend.opacity = 0.5));
    takeApart(session, session.cursor.step!);
    expect(tree(session)).toEqual(['mix', 'invert', 'tint', 'blur']);
    expect(session.notice).toContain('Undo brings it back');
    expect(session.cursor.stepId).toBe(tint.id);
    session.undo();
    session.undo();
    session.undo();
    expect(tree(session)).toEqual(['mix', 'invert', 'tint', 'blur']);
    session.redo();
    expect(tree(session)).toEqual(['mix', ['invert', 'tint'], 'blur']);
  });

  it('leave out what moves pixels, and say why', async () => {
    const session = await withSteps('straighten');
    groupSteps(session, session.cursor.picture.steps);
    expect(session.refusal).toBe('“Straighten” moves pixels and can’t stand inside a group');
    expect(tree(session)).toEqual(['straighten', 'mix']);
  });

  it('take the next step beside the selected one, wherever that stands', async () => {
    const session = await withSteps('invert');
    groupSteps(session, [session.cursor.step!]);
    const [, group] = session.cursor.picture.steps;
    session.select((group.params as { steps: { id: string }[] }).steps[0].id);
    expect(session.cursor.step?.op).toBe('invert');
    expect(session.cursor.stepsBefore.map(({ op }) => op)).toEqual(['mix']);
    addStep(session, 'tint');
    expect(tree(session)).toEqual(['mix', ['invert', 'tint']]);
    addStep(session, 'straighten');
    expect(tree(session)).toEqual(['straighten', 'mix', ['invert', 'tint']]);
  });

  it('are entered and left by moving, but never by themselves', async () => {
    const session = await withSteps('invert', 'tint');
    groupSteps(session, [session.cursor.step!]);
    const [mix, invert, group] = session.cursor.picture.steps;
    moveInto(session, invert.id, group.id, 0);
    expect(tree(session)).toEqual(['mix', ['invert', 'tint']]);
    moveStep(session, findStep(session.cursor.picture.steps, invert.id)!, 1);
    expect(tree(session)).toEqual(['mix', ['tint', 'invert']]);
    moveStep(session, findStep(session.cursor.picture.steps, invert.id)!, 1);
    expect(tree(session)).toEqual(['mix', ['tint'], 'invert']);
    moveInto(session, group.id, group.id, 0);
    expect(tree(session)).toEqual(['mix', ['tint'], 'invert']);
    moveInto(session, mix.id, null, 3);
    expect(tree(session)).toEqual([['tint'], 'invert', 'mix']);
  });

  it('are copied with ids of their own', async () => {
    const session = await withSteps('invert');
    groupSteps(session, [session.cursor.step!]);
    duplicateStep(session, session.cursor.step!);
    pasteSteps(session, stepsAsText(session.document, 'Jug', [session.cursor.step!]));
    expect(tree(session)).toEqual(['mix', ['invert'], ['invert'], ['invert']]);
    const ids = allSteps(session.cursor.picture.steps).map(({ id }) => id);
    expect(new Set(ids).size).toBe(ids.length);
    // What would be refused when it is read again is not made.
    expect(session.refusal).toBe('');
  });

  it('are changed, switched, renamed and removed inside as steps are anywhere', async () => {
    const session = await withSteps('invert', 'tint');
    groupSteps(
      session,
      stepsBetween(session.cursor.picture.steps, session.cursor.picture.steps[1].id, session.cursor.stepId)
    );
    const inside = (): Step[] => [...(session.cursor.picture.steps[1].params as { steps: Step[] }).steps];
    const [invert, tint] = inside();
    session.select(tint.id);
    session.changeStep('Hue', (step) => ((step.params as { hue: number }).hue = 200));
    toggleStep(session, inside()[0]);
    renameStep(session, inside()[0], 'negative');
    expect(inside()[1].params).toMatchObject({ hue: 200 });
    expect(inside()[0]).toMatchObject({ enabled: false, name: 'negative' });
    removeStep(session, inside()[1]);
    expect([session.cursor.stepId, tree(session)]).toEqual([invert.id, ['mix', ['invert']]]);
    removeStep(session, inside()[0]);
    // Nothing is left before it but the group itself.
    expect(tree(session)).toEqual(['mix', []]);
  });

  it('ask before they take away what others use of them', async () => {
    const session = await withSteps('invert');
    groupSteps(session, [session.cursor.step!]);
    const [, group] = session.cursor.picture.steps;
    const [inner] = (group.params as { steps: Step[] }).steps;
    addStep(session, 'lay', { params: { from: { picture: 'p1', after: inner.id } } });
    const removal = stepRemoval(session, group)!;
    expect(removal.users).toEqual(['the step “Lay over” of “Jug”']);
    removal.replace(removal.instead[0].by);
    expect(tree(session)).toEqual(['mix', 'lay']);
    expect(session.cursor.picture.steps[1].params).toMatchObject({ from: { picture: 'p1', after: 's1' } });
  });

  it('supposes changes without making them, and makes several in one', async () => {
    const session = await open();
    const before = session.document;
    const work = (): void => {
      setRow(session, 0.3);
      session.changeStep('Opacity', (step) => (step.blend.opacity = 0.5));
    };
    const supposed = session.whatIf(work)!;
    expect(supposed.pictures[0].steps[0]).toMatchObject({
      params: { rows: { g: { g: 1, b: 0.3 } } },
      blend: { opacity: 0.5 }
    });
    expect(session.document).toBe(before);
    expect(session.undoLabel).toBeNull();
    expect(session.asOne('Take both', work)).toBe(true);
    expect(session.document).toEqual(supposed);
    expect(session.undoLabel).toBe('Take both');
    session.undo();
    expect(session.document).toEqual(before);
    expect(session.undoLabel).toBeNull();
    // What could not be read again is not supposed either.
    const wrong = (): void =>
      void session.change('x', (draft) => void draft.pictures.push(draft.pictures[0]));
    expect(session.whatIf(wrong)).toBeNull();
    expect(session.asOne('x', wrong)).toBe(false);
    expect(session.document).toEqual(before);
  });

  it('has versions that begin at a step, are put in order, liked best, and given a path of their own', async () => {
    const session = await open();
    const [step] = session.cursor.picture.steps;
    versionFrom(session, step);
    await vi.waitFor(() => expect(session.cursor.picture.name).toBe('Jug, from Mix'));
    const version = session.cursor.picture;
    expect(version.steps).toEqual([]);
    expect(version.head).toMatchObject({
      kind: 'compose',
      g: [{ from: { picture: 'p1', after: 's1' }, channel: 'rgb.g', weight: 1 }]
    });
    addStep(session, 'invert');
    movePicture(session, version.id, -1);
    expect(session.document.pictures.map((p) => p.name)).toEqual(['Jug, from Mix', 'Jug']);
    movePicture(session, version.id, -1);
    markFavourite(session, session.cursor.picture);
    expect(session.cursor.picture.favourite).toBe(true);
    duplicatePicture(session);
    expect(session.document.pictures[1].favourite).toBeUndefined();
    await session.showPicture(version.id);
    takeVersionApart(session, session.cursor.picture);
    expect(session.cursor.picture.head).toEqual({ kind: 'frame', frame: 'f1' });
    expect(session.cursor.picture.steps.map((s) => s.op)).toEqual(['mix', 'invert']);
    expect(session.cursor.picture.steps[0].id).not.toBe('s1');
    expect(session.notice).toMatch(/path of its own/);
    markFavourite(session, session.cursor.picture);
    expect('favourite' in session.cursor.picture).toBe(false);
  });
});
