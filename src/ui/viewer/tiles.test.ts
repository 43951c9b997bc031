import { beforeEach, describe, expect, it, vi } from 'vitest';
import { stepSchema } from '$core/document';
import { headOf } from '$core/heads';
import { lyingPlain } from '$core/raster/geometry';
import type { Rect } from '$core/raster/raster';
import { isAwaited } from './awaited';
import type { Shown } from './shown';

interface Asked {
  ask: { rect: Rect; level: number };
  priority: number;
  signal: AbortSignal;
  /** @param took of a worker, in ms */
  answer: (took?: number) => Promise<void>;
  fail: () => Promise<void>;
}

const asked: Asked[] = [];
const closed = vi.fn();
vi.stubGlobal('window', globalThis);
vi.mock('../services', () => ({
  pool: {
    size: 2,
    together: (work: () => void) => work(),
    run: (_: string, ask: Asked['ask'], options: { priority: number; signal: AbortSignal }) =>
      new Promise((resolve, reject) => {
        const { width, height } = ask.rect;
        options.signal.addEventListener('abort', () => reject(new Error('taken back')));
        asked.push({
          ask,
          ...options,
          answer: async (took = 1) => {
            resolve({ pixels: { width, height, level: ask.level, close: closed }, took });
            await new Promise((done) => setImmediate(done));
          },
          fail: async () => {
            reject(new Error('no worker is left'));
            await new Promise((done) => setImmediate(done));
          }
        });
      })
  }
}));
const { TileView } = await import('./tiles');
const { letGoOfKept } = await import('./bitmaps');

const size = (width: number, height: number): { width: number; height: number } => ({ width, height });
let count = 0;
let hash = '';
const shown = (weight = 0): Shown => {
  const step = stepSchema.parse({ id: 's', op: 'mix', params: { rows: { r: { r: 1, g: weight } } } });
  return {
    ...{ head: headOf(hash), levels: 3, steps: [step], at: 'end', hold: null, pins: [] },
    geometry: lyingPlain(size(2000, 1000)),
    view: 'colour'
  };
};
const middle = { zoom: 1, x: 1000, y: 500 };
const square = size(300, 300);
const places = (list: readonly Asked[]): string[] => list.map(({ ask }) => `${ask.rect.x},${ask.rect.y}`);
const open = (): Asked[] => asked.filter((a) => !a.signal.aborted);
/** The levels and rectangles of the bitmaps that were drawn since this was last asked. */
const drawn = (): number[][] =>
  vi
    .mocked(context.drawImage)
    .mock.calls.splice(0)
    .map(([bitmap, ...at]) => [(bitmap as unknown as { level: number }).level, ...at]);
const made = ['clearRect', 'drawImage', 'save', 'restore', 'beginPath', 'rect', 'clip'] as const;
const context = Object.fromEntries(
  made.map((name) => [name, vi.fn()])
) as unknown as CanvasRenderingContext2D;

beforeEach(() => {
  asked.length = 0;
  hash = `file-${count++}`;
  vi.mocked(context.drawImage).mockClear();
});

describe('the tiles of a view', () => {
  it('are only those in sight, the nearest to the middle first', () => {
    new TileView(1, vi.fn()).show(shown(), middle, size(300, 300));
    // 850…1150 by 350…650: the columns of 768 and 1024, the rows of 256 and 512.
    expect(places(asked).sort()).toEqual(['1024,256', '1024,512', '768,256', '768,512']);
    // The middle (1000, 500) lies nearest to the tile from (768, 256), whose own middle is (896, 384).
    const far = ({ ask }: Asked): number => Math.hypot(ask.rect.x + 128 - 1000, ask.rect.y + 128 - 500);
    const distances = asked.map(far);
    expect(distances).toEqual([...distances].sort((a, b) => a - b));
  });

  it('come from the level that fits the zoom, cut at the edge of the picture', () => {
    new TileView(1, vi.fn()).show(shown(), { zoom: 0.25, x: 1000, y: 500 }, size(600, 600));
    expect(asked.every(({ ask }) => ask.level === 2)).toBe(true);
    expect(asked.map(({ ask }) => ask.rect.width * ask.rect.height).reduce((a, b) => a + b)).toBe(500 * 250);
  });

  it('are taken back when they are no longer wanted, and not asked twice', () => {
    const view = new TileView(1, vi.fn());
    const content = shown(0.1);
    view.show(content, middle, size(300, 300));
    view.show(content, { ...middle, x: 1200 }, size(300, 300));
    // 1050…1350: the column of 768 is out of sight, that of 1280 comes in, that of 1024 stays asked.
    expect(places(asked.filter((a) => a.signal.aborted)).sort()).toEqual(['768,256', '768,512']);
    expect(places(open()).sort()).toEqual(['1024,256', '1024,512', '1280,256', '1280,512']);
    view.show(shown(0.2), { ...middle, x: 1210 }, size(300, 300));
    expect(open()).toHaveLength(4);
    expect(asked).toHaveLength(10);
    view.close();
    expect(open()).toHaveLength(0);
  });

  it('tell when the whole view stands, and are known the next time', async () => {
    const settled = vi.fn();
    const view = new TileView(1, vi.fn(), settled);
    view.show(shown(), middle, size(300, 300));
    for (const tile of asked.slice(0, 3)) await tile.answer();
    view.draw(context);
    expect(context.drawImage).toHaveBeenCalledTimes(3);
    expect(settled).not.toHaveBeenCalled();
    await asked[3].answer();
    view.draw(context);
    expect(settled).toHaveBeenCalledTimes(1);
    view.show(shown(0.4), middle, size(300, 300));
    expect(asked).toHaveLength(8);
    view.show(shown(), middle, size(300, 300));
    expect(asked).toHaveLength(8);
    expect(settled).toHaveBeenCalledTimes(2);
  });

  it('of a change wait for those of the one before, and of many changes the newest is asked', async () => {
    const settled = vi.fn();
    const view = new TileView(1, vi.fn(), settled);
    view.show(shown(0.1), middle, square);
    for (const weight of [0.2, 0.3, 0.4]) view.show(shown(weight), middle, square);
    expect(asked).toHaveLength(4);
    for (const tile of asked.slice(0, 4)) await tile.answer();
    expect(asked).toHaveLength(8);
    expect(asked[7].ask).toMatchObject({ steps: shown(0.4).steps });
    // Nothing is left waiting, and the same again asks for nothing.
    view.show(shown(0.4), middle, square);
    for (const tile of asked.slice(4)) await tile.answer();
    view.draw(context);
    expect(asked).toHaveLength(8);
    expect(settled).toHaveBeenCalledTimes(1);
  });

  it('are drawn together when all are there, or after a while', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'performance'] });
    const onChange = vi.fn();
    const view = new TileView(1, onChange);
    view.show(shown(), middle, square);
    onChange.mockClear();
    for (const tile of asked.slice(0, 3)) await tile.answer();
    expect(onChange).not.toHaveBeenCalled();
    await asked[3].answer();
    expect(onChange).toHaveBeenCalledTimes(1);
    vi.runAllTimers();
    view.show(shown(0.5), middle, square);
    onChange.mockClear();
    await asked[4].answer();
    vi.advanceTimersByTime(49);
    expect(onChange).not.toHaveBeenCalled();
    vi.advanceTimersByTime(1);
    expect(onChange).toHaveBeenCalledTimes(1);
    vi.useRealTimers();
    view.close();
  });

  it('of a slow change are seen roughly first, newest over older, until the sharp ones come', async () => {
    vi.useFakeTimers({ toFake: ['performance'] });
    const [seen, settled] = [vi.fn(), vi.fn()];
    const view = new TileView(1, vi.fn(), settled, 0, seen);
    const answer = async (list: readonly Asked[], after: number, took = 1): Promise<void> => {
      vi.advanceTimersByTime(after);
      for (const tile of list) await tile.answer(took);
      view.draw(context);
    };
    view.show(shown(0.1), middle, square);
    expect(asked.map(({ ask }) => ask.level)).toEqual([0, 0, 0, 0]);
    await answer(asked.slice(0, 4), 65, 25);
    expect(seen).toHaveBeenLastCalledWith(65);
    expect(settled).toHaveBeenLastCalledWith(65);
    // Four tiles of 25 ms keep two workers busy for 50 ms; half the size takes a quarter of that, and the page 15 ms.
    view.show(shown(0.2), middle, square);
    // 850…1150 by 350…650 of full size is 425…575 by 175…325 of half: two columns and two rows of 128.
    const levels = (from: number): number[] => asked.slice(from).map(({ ask }) => ask.level);
    expect(levels(4)).toEqual([1, 1, 1, 1]);
    expect(isAwaited()).toBe(true);
    drawn();
    await answer(asked.slice(4, 8), 30);
    expect(seen).toHaveBeenLastCalledWith(30);
    expect(isAwaited()).toBe(false);
    expect(settled).toHaveBeenCalledTimes(1);
    // The sharp ones are asked once those are drawn.
    expect(levels(8)).toEqual([0, 0, 0, 0]);
    // Columns 3 and 4, rows 1 and 2 of 128 samples of half size, which are 256 on the screen; the older sharp ones are
    // not drawn beneath.
    expect(drawn().sort()).toEqual([
      [1, -82, -94, 256, 256],
      [1, -82, 162, 256, 256],
      [1, 174, -94, 256, 256],
      [1, 174, 162, 256, 256]
    ]);
    // The next change does not wait for the sharp ones of this.
    view.show(shown(0.3), middle, square);
    expect(asked.slice(8, 12).every((a) => a.signal.aborted)).toBe(true);
    // As long as not all of it is there, what is there lies over the older.
    await answer(asked.slice(12, 13), 10);
    expect(drawn().map(([level]) => level)).toEqual([0, 0, 0, 0, 1, 1, 1, 1]);
    await answer(asked.slice(13, 16), 20);
    drawn();
    await answer(asked.slice(16, 20), 70, 25);
    expect(settled).toHaveBeenLastCalledWith(100);
    // Nothing of the rough ones is left at the edges.
    expect(drawn().map(([level]) => level)).toEqual([0, 0, 0, 0]);
    // The slower it is, the smaller the level: at half the size 200 ms come to 50 ms, at a quarter of it to 12.5 ms, which is soon enough.
    view.show(shown(0.4), middle, square);
    await answer(asked.slice(20, 24), 30);
    await answer(asked.slice(24, 28), 200, 100);
    view.show(shown(0.5), middle, square);
    await answer(asked.slice(28, 32), 30);
    await answer(asked.slice(32, 36), 200, 100);
    view.show(shown(0.6), middle, square);
    expect(levels(36)).toEqual([2, 2, 2, 2]);
    await answer(asked.slice(36), 30);
    // What is known is not computed.
    expect(settled).toHaveBeenCalledTimes(4);
    for (const weight of [0.5, 0.4, 0.3, 0.1]) view.show(shown(weight), middle, square);
    expect(asked).toHaveLength(44);
    expect(settled).toHaveBeenCalledTimes(8);
    vi.useRealTimers();
  });

  it('of a change that is quick to compute are sharp at once, whatever they had to wait for', async () => {
    vi.useFakeTimers({ toFake: ['performance'] });
    const view = new TileView(1, vi.fn(), vi.fn(), 0, vi.fn());
    const levels = (): number[] => asked.map(({ ask }) => ask.level);
    let weight = 0;
    /** Shows the next change, sees from what level it is first asked for, and answers all of it. */
    const change = async (expected: number, ...took: number[]): Promise<void> => {
      asked.length = 0;
      view.show(shown((weight += 0.01)), middle, square);
      expect(levels()).toEqual(Array(4).fill(expected));
      vi.advanceTimersByTime(500);
      if (expected > 0) for (const tile of asked.splice(0)) await tile.answer();
      view.draw(context);
      vi.advanceTimersByTime(500);
      for (const [i, tile] of asked.entries()) await tile.answer(took[i]);
      view.draw(context);
    };
    // Four tiles of 22 ms are 44 ms of two workers, however long it is until they come.
    await change(0, 22, 22, 22, 22);
    await change(0, 22, 22, 22, 22);
    // Some that were held up change nothing; where only one of the last eight was as quick, it has become slower.
    await change(0, 90, 90, 90, 22);
    await change(0, 90, 90, 90, 22);
    await change(0, 23, 23, 23, 23);
    await change(1, 23, 23, 23, 23);
    // It is shown so until it is much quicker, 28 ms: a hand would see it now sharply and now roughly.
    await change(1, 22, 22, 22, 22);
    await change(1, 16, 16, 16, 16);
    await change(1, 14, 14, 14, 14);
    await change(0, 14, 14, 14, 14);
    await change(0, 22, 22, 22, 22);
    await change(0, 22, 22, 22, 22);
    // A view of more tiles takes longer by as much: eight are 88 ms, 22 of half the size, 5.5 of a quarter of it; the page takes 15.
    asked.length = 0;
    view.show(shown(0.9), middle, size(600, 300));
    expect(levels().every((level) => level === 2)).toBe(true);
    vi.useRealTimers();
  });

  it('reckon with what the page takes beside the computing, but not with what waited for something else', async () => {
    vi.useFakeTimers({ toFake: ['performance'] });
    let weight = 0.5;
    /** Some changes that are seen so long after they were asked for, each of four tiles that took so long; the levels asked first. */
    const levels = async (took: number, seenAfter: number): Promise<number[]> => {
      const view = new TileView(1, vi.fn(), vi.fn(), 0, vi.fn());
      const found = [];
      for (let i = 0; i < 3; i++) {
        asked.length = 0;
        view.show(shown((weight += 0.01)), middle, square);
        found.push(asked[0].ask.level);
        const first = asked.splice(0);
        vi.advanceTimersByTime(seenAfter);
        for (const tile of first) await tile.answer(took / (found[i] > 0 ? 4 : 1));
        view.draw(context);
        vi.advanceTimersByTime(asked.length > 0 ? seenAfter : 0);
        for (const tile of asked) await tile.answer(took);
        view.draw(context);
      }
      view.close();
      return found;
    };
    // Two workers are busy for 40 ms, the page for 30; 52, 5; 40, and 160 are until something is solved.
    expect(await levels(20, 70)).toEqual([0, 1, 1]);
    expect(await levels(26, 57)).toEqual([0, 0, 0]);
    expect(await levels(20, 200)).toEqual([0, 0, 0]);
    // What the page alone takes so long for does not come sooner from a smaller level: 10 ms are computed, or 2.5.
    expect(await levels(5, 80)).toEqual([0, 0, 0]);
    // Where it takes 50 ms, those 40 are not to be more than 10: a quarter of them, and 44 are a sixteenth.
    expect(await levels(20, 90)).toEqual([0, 1, 1]);
    expect(await levels(22, 94)).toEqual([0, 2, 2]);
    vi.useRealTimers();
  });

  it('of changes that were seen later than expected are seen roughly, until they are much quicker or the view is moved', async () => {
    vi.useFakeTimers({ toFake: ['performance'] });
    const view = new TileView(1, vi.fn(), vi.fn(), 0, vi.fn());
    let weight = 0.7;
    /** The level from which the next change is asked first, in four tiles that take so long; they are seen so much after the two workers are ready. */
    const level = async (took: number[], lag = 15, placement = middle): Promise<number> => {
      asked.length = 0;
      view.show(shown((weight += 0.001)), placement, square);
      const first = asked[0].ask.level;
      if (first > 0) for (const tile of asked.splice(0)) await tile.answer(1);
      view.draw(context);
      vi.advanceTimersByTime(took.reduce((sum, time) => sum + time / 2, 0) + lag);
      for (const [i, tile] of asked.entries()) await tile.answer(took[i]);
      view.draw(context);
      return first;
    };
    // One tile of four is cheaper than the others: 51 ms are expected, and they are seen after 54.
    const almost = [18, 20, 20, 20];
    for (let i = 0; i < 4; i++) expect(await level(almost)).toBe(0);
    // Something else held one up; then they are seen after 69.
    const late = [18, 30, 30, 30];
    expect(await level(almost, 200)).toBe(0);
    expect(await level(late)).toBe(0);
    for (let i = 0; i < 4; i++) expect(await level(late)).toBe(1);
    // 39 ms are more than three quarters of those 51, 37 are not.
    for (let i = 0; i < 3; i++) expect(await level([12, 12, 12, 12])).toBe(1);
    expect(await level([11, 11, 11, 11])).toBe(1);
    expect(await level(late)).toBe(0);
    // Elsewhere it is not known.
    const elsewhere = { ...middle, x: 1010 };
    expect(await level(late, 15, elsewhere)).toBe(0);
    expect(await level(late, 15, elsewhere)).toBe(1);
    view.close();
    vi.useRealTimers();
  });

  it('come sharp where rough ones fail', async () => {
    vi.useFakeTimers({ toFake: ['performance'] });
    const told = vi.fn();
    const seen = vi.fn();
    const view = new TileView(1, vi.fn(), vi.fn(), 0, seen, told);
    view.show(shown(0.1), middle, square);
    vi.advanceTimersByTime(100);
    for (const tile of [...asked]) await tile.answer(40);
    view.draw(context);
    view.show(shown(0.2), middle, square);
    const rough = asked.splice(0).slice(4);
    for (const tile of rough) await (tile === rough[1] ? tile.fail() : tile.answer());
    expect(told).toHaveBeenCalledTimes(1);
    expect(asked.map(({ ask }) => ask.level)).toEqual([0, 0, 0, 0]);
    for (const tile of [...asked]) await tile.answer();
    view.draw(context);
    expect(seen).toHaveBeenCalledTimes(2);
    vi.useRealTimers();
  });

  it('that fail are told, and are asked for anew alone', async () => {
    const told = vi.fn();
    const settled = vi.fn();
    const view = new TileView(1, vi.fn(), settled, 0, null, told);
    view.show(shown(0.7), middle, square);
    for (const [i, tile] of [...asked].entries()) await (i === 1 ? tile.fail() : tile.answer());
    expect(told).toHaveBeenCalledTimes(1);
    expect(told.mock.calls[0][0]).toBeInstanceOf(Error);
    view.draw(context);
    expect(settled).not.toHaveBeenCalled();
    view.again();
    expect(asked).toHaveLength(5);
    await asked[4].answer();
    view.draw(context);
    expect(settled).toHaveBeenCalledTimes(1);
  });

  it('are not drawn again for a change of which nothing is there yet', async () => {
    const onChange = vi.fn();
    const view = new TileView(1, onChange);
    view.show(shown(), middle, square);
    for (const tile of [...asked]) await tile.answer();
    onChange.mockClear();
    view.show(shown(0.3), { ...middle }, { ...square });
    expect(onChange).not.toHaveBeenCalled();
    // What is known is drawn at once, and a picture that is moved as well.
    view.show(shown(), middle, square);
    expect(onChange).toHaveBeenCalledTimes(1);
    view.show(shown(), { ...middle, x: 1010 }, square);
    expect(onChange).toHaveBeenCalledTimes(2);
  });

  it('give their memory back when neither the list of the newest nor a view holds them', async () => {
    const views = [new TileView(1, vi.fn()), new TileView(1, vi.fn())];
    const settle = async (view: InstanceType<typeof TileView>, weight: number): Promise<void> => {
      view.show(shown(weight), middle, square);
      for (const tile of asked.splice(0)) await tile.answer();
    };
    await settle(views[0], 0.001);
    for (let i = 0; i < 128; i++) await settle(views[1], 0.1 + i / 1000);
    closed.mockClear();
    // The list is full of the 128 contents of four tiles of the second view; the first still holds its own.
    views[0].draw(context);
    expect(context.drawImage).toHaveBeenCalledTimes(4);
    views[0].close();
    expect(closed).toHaveBeenCalledTimes(4);
    await settle(views[1], 0.5);
    expect(closed).toHaveBeenCalledTimes(8);
    views[1].close();
    expect(closed).toHaveBeenCalledTimes(8);
  });

  it('give all their memory back as a document is left, also those that come after', async () => {
    letGoOfKept();
    const view = new TileView(1, vi.fn());
    for (const weight of [0.1, 0.2]) {
      view.show(shown(weight), middle, square);
      for (const tile of asked.splice(0)) await tile.answer();
    }
    closed.mockClear();
    // The view draws from the four of the second change, until it is closed itself.
    letGoOfKept();
    expect(closed).toHaveBeenCalledTimes(4);
    view.show(shown(0.3), middle, square);
    const late = asked[0].answer();
    view.close();
    expect(closed).toHaveBeenCalledTimes(8);
    await late;
    expect(closed).toHaveBeenCalledTimes(9);
  });

  it('of an older change are taken back where they take too long', () => {
    vi.useFakeTimers();
    const view = new TileView(1, vi.fn());
    view.show(shown(0.1), middle, square);
    vi.advanceTimersByTime(400);
    view.show(shown(0.2), middle, square);
    vi.useRealTimers();
    expect(asked.slice(0, 4).every((a) => a.signal.aborted)).toBe(true);
    expect(open()).toHaveLength(4);
  });

  it('are drawn where their pixels belong, old ones until new ones come', async () => {
    const view = new TileView(1, vi.fn());
    view.show(shown(), { zoom: 2, x: 300, y: 300 }, size(100, 100));
    for (const tile of [...asked]) await tile.answer();
    view.draw(context);
    // The tile from (256, 256) at zoom 2 begins 50 − 2·(300 − 256) = −38 pixels from the view's corner.
    const [, left, top, width, height] = vi.mocked(context.drawImage).mock.calls[0] as unknown as number[];
    expect([left, top, width, height]).toEqual([-38, -38, 512, 512]);
    view.show(shown(0.7), { zoom: 2, x: 300, y: 300 }, size(100, 100));
    vi.mocked(context.drawImage).mockClear();
    view.draw(context);
    expect(context.drawImage).toHaveBeenCalledTimes(1);
  });

  it('of a coarse level stay for where the picture is moved to, within its edges', async () => {
    const view = new TileView(1, vi.fn());
    const settle = async (): Promise<void> => {
      for (const tile of open()) await tile.answer();
      view.draw(context);
    };
    view.show(shown(), { zoom: 0.25, x: 1000, y: 500 }, size(500, 250));
    await settle();
    view.show(shown(), middle, square);
    await settle();
    drawn();
    view.draw(context);
    expect(drawn().map(([level]) => level)).toEqual([0, 0, 0, 0]);
    const moved = { zoom: 1, x: 1900, y: 500 };
    view.show(shown(), moved, square);
    view.draw(context);
    // Two of 256 and 244 samples of four pixels, the second from 150 + 4 · 256 − 1900 on.
    expect(drawn()).toEqual([[2, -726, -350, 976, 1000]]);
    expect(context.rect).toHaveBeenLastCalledWith(-1750, -350, 2000, 1000);
    await settle();
    expect(drawn().every(([level]) => level === 0)).toBe(true);
  });

  it('of a patient view are asked once for many changes', async () => {
    const view = new TileView(6, vi.fn(), vi.fn(), 20);
    view.show(shown(), middle, size(100, 100));
    const first = asked.length;
    for (const tile of [...asked]) await tile.answer();
    for (const weight of [0.1, 0.2, 0.3]) view.show(shown(weight), middle, size(100, 100));
    expect(asked).toHaveLength(first);
    await new Promise((resolve) => setTimeout(resolve, 50));
    expect(asked).toHaveLength(2 * first);
  });
});
