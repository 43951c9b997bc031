import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Page } from 'playwright-core';
import { parseDocument, type Step } from '../src/core/document';
import { packBundle } from '../src/core/files/bundle';
import { benchLaunch } from './chromium';
import { serve } from '../src/server/listen';

type Say = (what: string, found: string, wanted: string, held: boolean | null) => void;
type Made = Record<'png' | 'tiff', { bytes: Uint8Array; theirs: number }>;

const DRAG_STEPS = 60;
/** Moves before those that count, in which the browser makes its code ready. */
const WARMING = 30;
const PAUSE = 120;
/** One opening can take half as long again as the next. */
const OPENINGS = 3;

const settled = (page: Page): Promise<unknown> =>
  page.waitForFunction(() => performance.getEntriesByName('kromba:settled').length > 0, null, {
    timeout: 120_000
  });

/** From the file being given until its picture stands on the screen, in ms. */
async function opened(page: Page, address: string, path: string): Promise<number> {
  await page.goto(address);
  await page.getByRole('button', { name: 'Open pictures' }).isEnabled();
  await page.waitForTimeout(500);
  const start = Date.now();
  await page.getByLabel('Pictures or Kromba documents').setInputFiles(path);
  await page.waitForURL('**/work/**', { timeout: 120_000 });
  await settled(page);
  return Date.now() - start;
}

/**
 * What the page and its workers take, in MB, as the browser itself measures it: it counts what they share for each that holds it, which
 * is taken off again but for once.
 * @param shared bytes of what they share
 */
const memory = (page: Page, shared: number): Promise<number> =>
  page.evaluate(async (once) => {
    const measure = (
      performance as unknown as {
        measureUserAgentSpecificMemory?: () => Promise<{ bytes: number; breakdown: { bytes: number }[] }>;
      }
    ).measureUserAgentSpecificMemory;
    if (!measure) return Number.NaN;
    const { bytes, breakdown } = await measure.call(performance);
    const holding = breakdown.filter((part) => part.bytes >= once).length;
    return (bytes - Math.max(0, holding - 1) * once) / 2 ** 20;
  }, shared);
/** Bytes of the samples of a 24-megapixel picture in colour, its smaller levels with them. */
const sharedBytes = (bytesOfSample: number): number => (6000 * 4000 * 3 * bytesOfSample * 4) / 3;

/** Of nothing at all it is no number. */
const quantile = (sorted: readonly number[], q: number): number =>
  sorted[Math.min(sorted.length - 1, Math.floor(q * sorted.length))] ?? Number.NaN;

/**
 * How long pictures took until a change was first seen, and until it was seen sharply, in ms from when the view was asked for it; the
 * former from the pointer's event as well, whatever the page does before it asks; and the tasks over 50 ms.
 */
interface Followed {
  readonly seen: number[];
  readonly sharp: number[];
  readonly sinceEvent: number[];
  readonly longTasks: number;
}

/** Drags a slider of the selected mix with the mouse and tells how the picture followed. */
async function dragged(page: Page): Promise<Followed> {
  const box = (await page.getByRole('slider', { name: 'green gets red, slider' }).boundingBox())!;
  const y = box.y + box.height / 2;
  const drag = async (moves: number, height: number): Promise<void> => {
    await page.mouse.move(box.x + box.width / 2, y);
    await page.mouse.down();
    for (let i = 1; i <= moves; i++) {
      await page.mouse.move(box.x + box.width * (0.5 + height * Math.sin(i / 9)), y);
      await page.waitForTimeout(PAUSE);
    }
    await page.mouse.up();
  };
  // Other places of the slider than those that count, so that nothing of theirs is kept.
  await drag(WARMING, 0.21);
  await page.waitForTimeout(1000);
  await page.evaluate(() => {
    performance.clearMeasures();
    const seen = window as unknown as { longTasks: number; moves?: number[] };
    const isFirst = !seen.moves;
    seen.longTasks = 0;
    seen.moves = [];
    if (!isFirst) return;
    new PerformanceObserver((list) => (seen.longTasks += list.getEntries().length)).observe({
      type: 'longtask'
    });
    window.addEventListener('pointermove', (event) => seen.moves?.push(event.timeStamp), true);
  });
  await drag(DRAG_STEPS, 0.3);
  await page.waitForTimeout(500);
  const { seen, sharp, longTasks, moves } = await page.evaluate(() => ({
    seen: performance.getEntriesByName('kromba:seen').map((e) => ({ from: e.startTime, took: e.duration })),
    sharp: performance.getEntriesByName('kromba:settled').map((e) => e.duration),
    longTasks: (window as unknown as { longTasks: number }).longTasks,
    moves: (window as unknown as { moves: number[] }).moves
  }));
  const sorted = (times: number[]): number[] => times.sort((a, b) => a - b);
  const sinceEvent = seen.flatMap(({ from, took }) => {
    const move = moves.findLast((at) => at <= from);
    return move === undefined ? [] : [from + took - move];
  });
  return {
    seen: sorted(seen.map(({ took }) => took)),
    sharp: sorted(sharp),
    sinceEvent: sorted(sinceEvent),
    longTasks
  };
}

/** How long after the picture is first seen the instruments have its numbers, in ms: the median of some single changes. */
async function measuredAfter(page: Page): Promise<number> {
  const field = page.getByRole('textbox', { name: 'green gets red in percent', exact: true });
  const lags: number[] = [];
  for (let i = 0; i < 9; i++) {
    await page.evaluate(() => {
      performance.clearMarks('kromba:measured');
      performance.clearMeasures();
    });
    await field.fill(String(10 + i));
    await field.press('Enter');
    await page.waitForFunction(
      () =>
        performance.getEntriesByName('kromba:measured').length > 0 &&
        performance.getEntriesByName('kromba:settled').length > 0
    );
    await page.waitForTimeout(400);
    lags.push(
      await page.evaluate(() => {
        const picture = performance.getEntriesByName('kromba:seen').at(-1)!;
        const measured = performance.getEntriesByName('kromba:measured').at(-1)!;
        return measured.startTime - (picture.startTime + picture.duration);
      })
    );
  }
  return quantile(
    lags.sort((a, b) => a - b),
    0.5
  );
}

/** From the pointer's move over the picture to the frame in which its stroke is seen, in ms. */
async function painted(page: Page): Promise<number[]> {
  await page
    .getByRole('toolbar', { name: 'Parts of the step' })
    .getByRole('button', { name: /^Where/ })
    .click();
  await page.keyboard.press('s');
  const canvas = page.getByLabel('Paint on the picture');
  const box = (await canvas.boundingBox())!;
  await page.evaluate(() => {
    const lags: number[] = [];
    (window as unknown as { lags: number[] }).lags = lags;
    window.addEventListener('pointermove', (event) => {
      if (event.buttons === 0) return;
      requestAnimationFrame(() => {
        // The layer's own listener has drawn by now, or the stroke is not there yet.
        const veil = performance.getEntriesByName('kromba:veil').at(-1);
        const drawn = veil !== undefined && veil.startTime >= event.timeStamp;
        lags.push(drawn ? performance.now() - event.timeStamp : Infinity);
      });
    });
  });
  await page.mouse.move(box.x + 100, box.y + 100);
  await page.mouse.down();
  for (let i = 1; i <= DRAG_STEPS; i++) {
    await page.mouse.move(box.x + 100 + 5 * i, box.y + 140 + 40 * Math.sin(i / 6));
    await page.waitForTimeout(30);
  }
  await page.mouse.up();
  return page.evaluate(() => (window as unknown as { lags: number[] }).lags);
}

/** Waits until all of some pictures stand, and tells how long that took from when `begin` was done, in ms. */
async function standing(
  page: Page,
  pictures: string,
  count: number,
  begin: () => Promise<void>
): Promise<number> {
  const start = Date.now();
  await begin();
  await page.waitForFunction(
    ([wanted, least]) => {
      const seen = [...document.querySelectorAll(wanted)].filter((canvas) => {
        const { left, right } = canvas.getBoundingClientRect();
        return right > 0 && left < innerWidth;
      });
      return seen.length >= least && seen.every((canvas) => canvas.getAttribute('aria-busy') === 'false');
    },
    [pictures, count] as const,
    { timeout: 120_000, polling: 20 }
  );
  return Date.now() - start;
}

/** A number of the mix at nine values, at fit, until all stand. */
async function bracketed(page: Page): Promise<number> {
  await page.getByRole('group', { name: 'green gets red', exact: true }).locator('.label').click();
  const wall = page.getByRole('group', { name: 'Values tried' });
  await wall.waitFor();
  await page.waitForTimeout(3000);
  const count = page.getByLabel('How many values of green gets red');
  const time = await standing(page, '.wall canvas', 9, async () => void (await count.selectOption('9')));
  await page.getByRole('button', { name: 'End', exact: true }).click();
  return time;
}

const TABLES = 60;
const LOOKS = 28;

/** A table that bends red a little more than the one before. */
function bent(nodes: number, by: number): string {
  const at = (i: number): number => i / (nodes - 1);
  const rows = Array.from({ length: nodes ** 3 }, (_, i) => {
    const [r, g, b] = [i % nodes, Math.floor(i / nodes) % nodes, Math.floor(i / nodes ** 2)].map(at);
    return `${(r ** (1 + by)).toFixed(6)} ${g.toFixed(6)} ${b.toFixed(6)}`;
  });
  return [`LUT_3D_SIZE ${nodes}`, ...rows].join('\n');
}

/** Puts tables and looks on the shelf beside Kromba's own, and tells how long its first row takes to stand. */
async function shelved(page: Page): Promise<number> {
  const file = (name: string, text: string): { name: string; mimeType: string; buffer: Buffer } => ({
    ...{ name, mimeType: 'text/plain' },
    buffer: Buffer.from(text)
  });
  const tables = Array.from({ length: TABLES }, (_, i) => file(`bent ${i}.cube`, bent(17, i / 100)));
  const looks = Array.from({ length: LOOKS }, (_, i) =>
    file(
      `look ${i}.look.json`,
      JSON.stringify({
        ...{ kromba: 1, kind: 'look', name: `Look ${i}` },
        steps: [
          { id: 'a', op: 'mix', params: { rows: { g: { g: 1, r: i / 50 } } } },
          { id: 'b', op: 'colour', params: { saturation: i } }
        ]
      })
    )
  );
  await page.keyboard.press('l');
  await page.getByLabel('Files of looks').setInputFiles([...looks, ...tables]);
  await page.getByText(`${TABLES + LOOKS} looks were taken.`).waitFor({ timeout: 120_000 });
  await page.keyboard.press('Escape');
  await page.reload();
  await settled(page);
  await page.waitForTimeout(2000);
  return standing(page, '.card canvas', 8, () =>
    page.getByRole('button', { name: 'Looks', exact: true }).click()
  );
}

/** Drags a mix at some places of the path, and says how the picture followed. */
async function sliders(
  page: Page,
  places: readonly (readonly [place: number, title: string, shown?: 'End of path'])[],
  say: Say
): Promise<void> {
  for (const [place, title, shown = 'After this step'] of places) {
    await page
      .getByRole('navigation', { name: 'Path' })
      .locator('.choose')
      .nth(place + 1)
      .click();
    await page.getByRole('tab', { name: shown }).click();
    await page.waitForTimeout(1500);
    const { seen, sharp, sinceEvent, longTasks } = await dragged(page);
    const median = quantile(seen, 0.5);
    const p95 = quantile(seen, 0.95);
    const [half, most] = [quantile(sharp, 0.5), quantile(sharp, 0.95)];
    const times: [what: string, found: number, wanted: number | null][] =
      shown === 'After this step'
        ? [
            [`slider to pixels: ${title} median`, median, 16.7],
            [`  95th percentile of ${seen.length}`, p95, 33],
            [`  until it is sharp, median of ${sharp.length}`, half, null],
            ['  95th percentile', most, null]
          ]
        : [
            [`slider to pixels: ${title} median`, median, null],
            [`  95th percentile of ${seen.length}`, p95, null],
            [`  until it is sharp, median of ${sharp.length}`, half, 50],
            ['  95th percentile', most, 80]
          ];
    for (const [what, found, wanted] of times)
      say(
        what,
        `${found.toFixed(1)} ms`,
        wanted === null ? '' : `≤ ${wanted} ms`,
        wanted === null ? null : found <= wanted
      );
    say(
      '  from the pointer’s event, median and 95th percentile',
      `${quantile(sinceEvent, 0.5).toFixed(1)}, ${quantile(sinceEvent, 0.95).toFixed(1)} ms`,
      '',
      null
    );
    const lag = await measuredAfter(page);
    say('  instruments behind the picture, median', `${lag.toFixed(0)} ms`, '≤ 150 ms', lag <= 150);
    say('  tasks over 50 ms on the main thread', String(longTasks), '0', longTasks === 0);
  }
}

/** How long it takes from now until so many results stand for whole pictures, in ms. */
async function wholeResults(page: Page, count: number): Promise<number> {
  const start = Date.now();
  await page.waitForFunction(
    (wanted) => performance.getEntriesByName('kromba:whole').length >= wanted,
    count,
    { timeout: 300_000 }
  );
  return Date.now() - start;
}

export const BROWSER_PARTS = ['files', 'path', 'shelf', 'masked', 'settling', 'skies'] as const;

/** The figures that only a page can give: opening, the slider, painting, memory. */
export async function benchBrowser(
  made: Made,
  { steps, masked, settling }: Record<'steps' | 'masked' | 'settling', readonly Step[]>,
  sky: Parameters<typeof packBundle>[0],
  does: (part: (typeof BROWSER_PARTS)[number]) => boolean,
  say: Say
): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'kromba-bench-'));
  const { address, end } = await serve({ port: 0 });
  const browser = await chromium.launch(benchLaunch());
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    for (const [format, { bytes, theirs }] of does('files') ? Object.entries(made) : []) {
      const path = join(folder, `bench.${format}`);
      await writeFile(path, bytes);
      const openings: number[] = [];
      for (let i = 0; i < OPENINGS; i++) openings.push(await opened(page, address, path));
      const time = quantile(
        openings.sort((a, b) => a - b),
        0.5
      );
      const times = format === 'png' ? 1.5 : 1;
      const wanted = `≤ ${times} × sharp’s decode (${theirs.toFixed(0)} ms)`;
      say(
        `open 24 MP 16-bit ${format.toUpperCase()} until it stands, median of ${OPENINGS}`,
        `${time} ms`,
        wanted,
        time <= times * theirs
      );
    }
    const openBundle = async (content: Parameters<typeof packBundle>[0]): Promise<number> => {
      const bundle = join(folder, `${content.document.name}.kromba`);
      await writeFile(bundle, (await packBundle(content)).stream());
      return opened(page, address, bundle);
    };
    const open = (name: string, path: readonly Step[]): Promise<number> => {
      const document = parseDocument({
        kromba: 1,
        kind: 'document',
        name,
        frames: [{ id: 'f', name: 'bench', file: 'bench.png' }],
        pictures: [{ id: 'p', name: 'bench', head: { kind: 'frame', frame: 'f' }, steps: path }]
      });
      const files = new Map([['f', new Blob([new Uint8Array(made.png.bytes)])]]);
      return openBundle({ document, files });
    };
    if (does('path') || does('shelf')) await open('bench', steps);
    if (does('path')) {
      await sliders(
        page,
        [
          [1, 'the second of 8 steps, a mix,'],
          [7, 'the last of 8 steps, a mix,'],
          [1, 'the second, all 8 shown,', 'End of path']
        ],
        say
      );
      const used = await memory(page, sharedBytes(2));
      say('memory of the tab, 24 MP document', `${used.toFixed(0)} MB`, '≤ 600 MB', used <= 600);
      const nine = await bracketed(page);
      say('a bracket of 9, at fit, until all stand', `${nine} ms`, '≤ 1500 ms', nine <= 1500);
    }
    if (does('shelf')) {
      const row = await shelved(page);
      const all = TABLES + LOOKS + 12;
      say(`the first row of a shelf of ${all}, until it stands`, `${row} ms`, '≤ 1000 ms', row <= 1000);
      await sliders(page, [[1, 'the second of 8 steps, with the shelf,']], say);
    }
    if (does('masked')) {
      await open('masked', masked);
      await sliders(
        page,
        [
          [0, 'before five masked steps, all shown,', 'End of path'],
          [5, 'the fifth masked step, a mix,']
        ],
        say
      );
      const lags = (await painted(page)).sort((a, b) => a - b);
      const [middle, late] = [quantile(lags, 0.5), quantile(lags, 0.95)];
      say('pointer to its stroke on the screen, median', `${middle.toFixed(1)} ms`, '≤ 30 ms', middle <= 30);
      say(`  95th percentile of ${lags.length}`, `${late.toFixed(1)} ms`, '≤ 30 ms', late <= 30);
    }
    if (does('settling')) {
      await open('settling', settling);
      const whole = await wholeResults(page, 2);
      say('two settled steps on 24 MP, until both stand', `${whole} ms`, '', null);
      await sliders(page, [[2, 'behind two settled steps, a mix,']], say);
      const held = await memory(page, sharedBytes(2) + 2 * sharedBytes(4));
      say('memory of the tab with two settled steps', `${held.toFixed(0)} MB`, '≤ 1200 MB', held <= 1200);
    }
    if (does('skies')) {
      const stands = await openBundle(sky);
      say('open three 24 MP frames, skies off, put together', `${stands} ms`, '', null);
      await sliders(page, [[1, 'behind three skies put together,']], say);
    }
  } finally {
    await browser.close();
    await end();
    await rm(folder, { recursive: true, force: true });
  }
}
