import 'fake-indexeddb/auto';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { maskOf, parseDocument, stepsAsText, type Mask } from '$core/document';
import { histogram } from '$core/measure/histogram';
import { Library, type StoredDocument } from '$storage/library';
import { stackOf } from '$core/ops/channel';
import { noiseFrame } from '$core/testing';
import type { Session as Opened } from './session.svelte';
import type { MaskBench as Masks } from './mask-bench.svelte';

vi.stubGlobal('window', globalThis);
const size = { width: 40, height: 30 };
const opened = new Map<string, number>();
vi.mock('../services', async () => ({
  tabs: (await import('../../storage/testing')).onlyTab(),
  keepFrames: vi.fn(),
  pool: { run: (kind: string, ask: unknown) => run(kind, ask) },
  openFrame: vi.fn((hash: string) => {
    opened.set(hash, (opened.get(hash) ?? 0) + 1);
    // Brighter by the number at the end of the name.
    const frame = noiseFrame(size.width, size.height);
    const light = Number(/\d+$/.exec(hash)?.[0] ?? 50);
    for (const { samples } of frame.levels) samples.fill((light / 100) * 65535);
    return Promise.resolve({ frame, notices: [], bytes: 9 });
  }),
  takeFile: vi.fn(async (_: unknown, file: Blob) => `h${new Uint8Array(await file.arrayBuffer())[0]}`)
}));
const { addFrames } = await import('./add-files');
const { Session } = await import('./session.svelte');
const { MaskBench, maskStep, thinned } = await import('./mask-bench.svelte');
const { Hand } = await import('./hand.svelte');
const { maskRemoval, pictureRemoval, stepRemoval } = await import('./removal');
const { addStep, orderSteps, pasteSteps, presets } = await import('./steps');

const head = { kind: 'frame', frame: 'f1' };
const lum = (of: object): Mask => maskOf({ kind: 'channel', channel: 'lum', of: of as { picture: string } });
const document = parseDocument({
  ...{ kromba: 1, kind: 'document', name: 'Tiles' },
  frames: [
    { id: 'f1', name: 'tiles', file: 'tiles.png' },
    { id: 'f2', name: 'dark', file: 'dark.png' }
  ],
  pictures: [
    {
      ...{ id: 'p1', name: 'Tiles', head },
      steps: [
        { id: 's1', op: 'mix', params: {} },
        { id: 's2', op: 'invert', params: {}, where: lum({ picture: 'p1', after: 's1' }) },
        { id: 's3', op: 'channel', params: { stack: [{ channel: 'rgb.r' }] } }
      ]
    },
    { id: 'p2', name: 'Dark', head: { kind: 'frame', frame: 'f2' } }
  ],
  masks: [
    { id: 'm1', name: 'Glaze', mask: maskOf({ kind: 'channel', channel: 'rgb.g' }) },
    { id: 'm2', name: 'Rest', mask: { ...maskOf({ kind: 'mask', id: 'm1' }), invert: true } }
  ]
});
const stored: StoredDocument = {
  ...{ id: 'd1', document, files: { f1: 'h60', f2: 'h20' }, createdAt: 1, modifiedAt: 1, position: 0 },
  selection: { picture: 'p1', step: 's2' },
  deletedAt: null
};

let session: Opened;
let masks: Masks;
let count = 0;
const run = vi.fn((kind: string, _: unknown) =>
  Promise.resolve<unknown>(
    kind === 'thumbnail'
      ? new Uint8Array(1)
      : kind === 'rank'
        ? { candidates: [{ name: 'red' }] }
        : {
            measured: [
              {
                histograms: [histogram(Float32Array.of(0, 0, 1, 1), 4, 256)],
                density: new Uint32Array(0)
              }
            ]
          }
  )
);
beforeEach(async () => {
  const library = await Library.open(`masks-${count++}`);
  await library.add(stored);
  session = await Session.open(library, 'd1', new AbortController().signal);
  masks = new MaskBench(session, new Hand(), { now: null });
  run.mockClear();
});

describe('a session of several pictures', () => {
  it('refuses a circle with the names, and leaves the document', () => {
    const before = session.document;
    const made = session.changeStep('To itself', (step) => (step.where = lum({ picture: 'p1' })));
    expect(made).toBe(false);
    expect(session.refusal).toContain('“Tiles” → “Tiles”');
    expect(session.document).toBe(before);
    expect(session.changeStep('Fine', (step) => (step.where = lum({ picture: 'p2' })))).toBe(true);
    expect(session.refusal).toBe('');
  });

  it('refuses a circle of named masks, and steps moved before what they take from', () => {
    expect(
      session.change('Loop', (d) => void (d.masks[0].mask = maskOf({ kind: 'mask', id: 'm2' }) as never))
    ).toBe(false);
    expect(session.refusal).toContain('“Glaze” → “Rest” → “Glaze”');
    orderSteps(session, ['s2', 's1', 's3']);
    expect(session.cursor.picture.steps.map((s) => s.id)).toEqual(['s1', 's2', 's3']);
    expect(session.refusal).toContain('in a circle');
  });

  it('takes frames in, the darkest first, each with a picture and a name of its own', async () => {
    const file = (light: number): Blob => new Blob([Uint8Array.of(light)]);
    const { pictures: ids } = await addFrames(session, [
      { name: 'day.png', file: file(90) },
      { name: 'night.png', file: file(5) },
      { name: 'Dark.png', file: file(30) }
    ]);
    expect(ids).toHaveLength(3);
    expect(session.document.pictures.map((p) => p.name)).toEqual([
      'Tiles',
      'Dark',
      'night',
      'Dark, 2',
      'day'
    ]);
    expect(session.sourceOf(ids[0])?.head.frames[0].hash).toBe('h5');
    session.undo();
    expect(session.document.frames).toHaveLength(2);
  });

  it('opens the frames that its steps take from, and goes to another picture', async () => {
    opened.clear();
    session.changeStep('From the dark one', (step) => (step.where = lum({ picture: 'p2' })));
    await vi.waitFor(() => expect(opened.get('h20')).toBe(1));
    const { steps } = session.cursor.source;
    expect(Object.values(steps[1].beside!.pictures)[0].head.frames[0].hash).toBe('h20');
    await session.showPicture('p2');
    expect(session.cursor.source.head.frames[0].hash).toBe('h20');
  });
});

describe('removing what others use', () => {
  it('asks about a step, and puts the one before it in its place', () => {
    const asked = stepRemoval(session, session.cursor.picture.steps[0])!;
    expect(asked.users).toEqual(['the step “Invert” of “Tiles”']);
    expect(session.cursor.picture.steps).toHaveLength(3);
    const before = session.document;
    asked.replace(asked.instead[0].by);
    expect(session.cursor.picture.steps.map((s) => s.id)).toEqual(['s2', 's3']);
    expect(session.cursor.picture.steps[0].where!.terms[0].source).toMatchObject({
      of: { picture: 'p1', after: 'head' }
    });
    // One change, and one that can be undone.
    session.undo();
    expect(session.document).toEqual(before);
  });

  it('asks about the picture that is shown, and stays with it where it can’t go', async () => {
    await session.showPicture('p2');
    session.change('Made of each other', (draft) => {
      const [first, second] = draft.pictures;
      first.steps[1].where = lum({ picture: 'p2' });
      second.steps.length = 0;
    });
    const before = session.document;
    const asked = pictureRemoval(session, 'p2')!;
    // “Tiles” would take from itself.
    asked.replace({ picture: 'p1' });
    await vi.waitFor(() => expect(session.refusal).toContain('“Tiles”'));
    await vi.waitFor(() => expect(session.cursor.picture.id).toBe('p2'));
    expect(session.document).toBe(before);
    asked.replace(null);
    await vi.waitFor(() => expect(session.document.pictures).toHaveLength(1));
    expect(session.cursor.picture.steps[1].where!.terms).toEqual([]);
    session.undo();
    expect(session.document).toEqual(before);
  });

  it('removes at once what nobody uses', () => {
    expect(stepRemoval(session, session.cursor.picture.steps[2])).toBeNull();
    expect(session.cursor.picture.steps).toHaveLength(2);
    expect(maskRemoval(session, 'm2')).toBeNull();
    expect(session.document.masks.map((m) => m.name)).toEqual(['Glaze']);
  });

  it('asks about a picture and a mask, and can take them out of their users', () => {
    session.changeStep('From the dark one', (step) => (step.where = lum({ picture: 'p2' })));
    const picture = pictureRemoval(session, 'p2')!;
    expect(picture.what).toBe('the picture “Dark”');
    picture.replace(null);
    expect(session.document.pictures).toHaveLength(1);
    expect(session.cursor.picture.steps[1].where!.terms).toEqual([]);
    const mask = maskRemoval(session, 'm1')!;
    expect(mask.users).toEqual(['the mask “Rest”']);
    mask.replace(null);
    expect(session.document.masks).toHaveLength(1);
    expect(session.document.masks[0].mask.terms).toEqual([]);
  });

  it('does not replace where that would make a circle', () => {
    const asked = maskRemoval(session, 'm1')!;
    const before = session.document;
    // “Rest” would be made of itself.
    asked.replace({ mask: 'm2' });
    expect(session.document).toEqual(before);
    expect(session.refusal).toContain('“Rest” → “Rest”');
  });
});

describe('the mask that is worked on', () => {
  it('is the step’s, an entry’s, or a named one', () => {
    expect(masks.mask).toBe(session.cursor.step!.where);
    session.select('s3');
    masks.place = { kind: 'entry', index: 0 };
    expect(masks.mask).toBeNull();
    masks.add({ kind: 'channel', channel: 'rgb.b' });
    expect(masks.mask!.terms).toHaveLength(1);
    expect((session.cursor.step!.params as { stack: { where: unknown }[] }).stack[0].where).toEqual(
      masks.mask
    );
    masks.clear();
    expect(masks.mask).toBeNull();
    masks.place = { kind: 'named', id: 'm1' };
    masks.change('Invert', (m) => (m.invert = true));
    expect(session.document.masks[0].mask.invert).toBe(true);
  });

  it('has terms that are added, selected and changed one by one', () => {
    masks.add({ kind: 'channel', channel: 'rgb.b' }, { combine: 'subtract' });
    expect(masks.chosen).toBe(1);
    masks.changeTerm('Half', (t) => (t.amount = 0.5));
    expect(masks.mask!.terms.map((t) => t.amount)).toEqual([1, 0.5]);
    expect(masks.term!.combine).toBe('subtract');
  });

  it('takes a term that was begun for it, whatever is selected by then, and nothing where it is gone', () => {
    const { spot } = masks;
    const term = masks.termOf({ kind: 'channel', channel: 'rgb.r' });
    const names = (): unknown[] =>
      session.cursor.picture.steps.map(({ where }) =>
        where?.terms.map(({ source }) => source.kind === 'channel' && source.channel)
      );
    session.select('s1');
    masks.termAt = 0;
    const rename = (draft: { name: string }): void => void (draft.name = 'Loaded');
    expect(masks.addTo(spot, term, rename)).toBe(true);
    expect(names()).toEqual([undefined, ['lum', 'rgb.r'], undefined]);
    expect([session.document.name, session.undoLabel, masks.termAt]).toEqual(['Loaded', 'Load a mask', 0]);
    // Where it is still worked on, its new term is selected.
    session.select('s2');
    expect(masks.addTo(spot, term, () => undefined)).toBe(true);
    expect(masks.termAt).toBe(2);
    const entry = { ...spot, step: 's3', place: { kind: 'entry', index: 0 } as const };
    expect(masks.addTo(entry, term, () => undefined)).toBe(true);
    expect(stackOf(session.cursor.picture.steps[2])[0].where?.terms).toHaveLength(1);
    const named = { ...spot, place: { kind: 'named', id: 'm1' } as const };
    expect(masks.addTo(named, term, () => undefined)).toBe(true);
    expect(session.document.masks[0].mask.terms).toHaveLength(2);

    const before = session.document;
    for (const gone of [
      { ...spot, step: 'gone' },
      { ...spot, picture: 'gone' },
      { ...entry, place: { kind: 'entry', index: 1 } as const },
      { ...spot, place: { kind: 'named', id: 'gone' } as const }
    ]) {
      session.refusal = '';
      expect(masks.addTo(gone, term, rename)).toBe(false);
      expect(session.refusal).toBe('The step that this mask was for is not in the document any more');
    }
    expect(session.document).toBe(before);
  });

  it('is seen as a mask, as its term, or with the outside drained', () => {
    masks.add({ kind: 'channel', channel: 'rgb.b' });
    const shown = (): { mask: Mask; drained: boolean } => masks.seen.at(-1)!.params as never;
    expect(masks.seen).toHaveLength(2);
    expect(shown().mask.terms).toHaveLength(2);
    masks.view = 'term';
    expect(shown().mask.terms.map((t) => t.source)).toEqual([{ kind: 'channel', channel: 'rgb.b' }]);
    masks.view = 'drained';
    expect(shown().drained).toBe(true);
  });

  it('shows a stroke before it is taken, then takes it thinned into the painted term', () => {
    const points = Array.from({ length: 400 }, (_, i): [number, number, number] => [
      i,
      50 + 0.05 * Math.sin(i),
      1
    ]);
    const stroke = { points, size: 60, hardness: 0.5, flow: 1, erase: false };
    masks.showStroke(stroke);
    expect(masks.live!.where!.terms[1]).toMatchObject({ combine: 'add', source: { kind: 'paint' } });
    expect(session.cursor.step!.where!.terms).toHaveLength(1);
    masks.takeStroke(stroke);
    masks.takeStroke({ ...stroke, erase: true });
    expect(masks.live).toBeNull();
    const [, painted, erased] = session.cursor.step!.where!.terms;
    if (painted.source.kind !== 'paint') throw new Error('not painted');
    expect(painted.source.strokes).toHaveLength(1);
    expect(painted.source.strokes[0].points.length).toBeLessThan(10);
    // Erasing takes away from all that stands before, the found term too.
    expect(erased).toMatchObject({
      combine: 'subtract',
      source: { kind: 'paint', strokes: [{ erase: false }] }
    });
    expect(masks.chosen).toBe(2);
    session.undo();
    expect(session.cursor.step!.where!.terms).toHaveLength(2);
  });

  it('measures what it covers, and ranks once there are pins of both kinds', async () => {
    masks.measure();
    await vi.waitFor(() => expect(masks.coverage).toBe(50));
    const { counts, total } = masks.histogram!;
    expect([counts[0] / total, counts[255] / total]).toEqual([0.5, 0.5]);
    masks.rank();
    expect(run).not.toHaveBeenCalledWith('rank', expect.anything());
    session.change('Pins', (d) => {
      for (const role of ['want', 'avoid'] as const)
        d.pins.push({ id: role, name: role, x: 3, y: 4, size: 5, role });
    });
    masks.rank();
    await vi.waitFor(() => expect(masks.candidates).toHaveLength(1));
    expect(run).toHaveBeenLastCalledWith(
      'rank',
      expect.objectContaining({ want: [{ x: 3.5, y: 4.5, size: 5 }], avoid: [{ x: 3.5, y: 4.5, size: 5 }] })
    );
  });
});

describe('strokes', () => {
  it('keep their shape within what the eye sees, however many points they had', () => {
    const turn = (i: number): number => (2 * Math.PI * i) / 10_000;
    const points = Array.from({ length: 10_000 }, (_, i): [number, number, number] => [
      500 + 300 * Math.cos(turn(i)),
      500 + 300 * Math.sin(turn(i)),
      0.5
    ]);
    const kept = thinned({ points, size: 100, hardness: 0.5, flow: 1, erase: false });
    expect(kept.length).toBeLessThan(120);
    // Half way between two kept points the way is still the circle's, to a hundredth of the brush and a little.
    kept.slice(1).forEach(([x, y], i) => {
      const r = Math.hypot((x + kept[i][0]) / 2 - 500, (y + kept[i][1]) / 2 - 500);
      expect(Math.abs(r - 300)).toBeLessThan(1.4);
    });
  });
});

describe('steps with masks', () => {
  it('come by hand as presets, ready to be painted', () => {
    for (const { op, step } of presets) addStep(session, op, step);
    expect(session.cursor.step).toMatchObject({ op: 'levels', name: 'Darken by hand' });
    expect(session.cursor.step!.where!.terms[0].source).toEqual({ kind: 'paint', strokes: [] });
  });

  it('are pasted with a word on what binds them, and refused where what they take from is missing', () => {
    const bound = {
      ...session.cursor.picture.steps[0],
      where: maskOf({ kind: 'ramp', shape: 'straight', from: [0, 0], to: [1, 1] })
    };
    expect(pasteSteps(session, stepsAsText(session.document, 'x', [bound]))).toBe(1);
    expect(session.notice).toContain('bound to its picture by a ramp');
    const lost = { ...bound, where: lum({ picture: 'elsewhere' }) };
    expect(pasteSteps(session, stepsAsText(session.document, 'x', [lost]))).toBe(0);
    expect(session.refusal).toContain('There is no picture “elsewhere”');
  });

  it('bring the named masks they are made with, once, and ask for tables that a text can’t hold', () => {
    const glaze = { id: 'm7', name: 'Glaze', mask: maskOf({ kind: 'channel', channel: 'lum' }) };
    const step = { ...session.cursor.picture.steps[0], where: maskOf({ kind: 'mask', id: 'm7' }) };
    const text = stepsAsText({ ...session.document, masks: [glaze] }, 'x', [step]);
    const before = session.document.masks.length;
    expect(pasteSteps(session, text)).toBe(1);
    expect(pasteSteps(session, text)).toBe(1);
    expect(session.document.masks.slice(before).map(({ name }) => name)).toEqual(['Glaze, 2']);
    const [{ id }] = session.document.masks.slice(before);
    expect(session.cursor.step!.where!.terms[0].source).toEqual({ kind: 'mask', id });
    const tabled = { ...step, id: 's9', op: 'lut', params: { table: 't1' }, where: null };
    const tables = [{ id: 't1', name: 'Kiln', file: 'kiln.cube' }];
    const withTable = stepsAsText({ ...session.document, tables }, 'x', [tabled as never]);
    expect(() => pasteSteps(session, withTable)).toThrow('need the table “Kiln” (kiln.cube)');
  });

  it('show their mask as a step of the house, which no document takes', () => {
    const seen = maskStep(maskOf({ kind: 'channel', channel: 'lum' }));
    expect(() => pasteSteps(session, stepsAsText(session.document, 'x', [seen]))).toThrow(
      '“(mask)” is no step'
    );
  });
});
