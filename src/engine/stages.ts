import { neededRect, withEvaluated, type Held, type Surroundings } from '../core/path/evaluate';
import type { KeptMasks } from '../core/path/apply';
import { encodingAt, planSize, planTo, type Plan } from '../core/path/plan';
import { copied, tileRect, tilesIn, type Raster, type Rect } from '../core/raster/raster';
import { lastSettled, unsettled, type Settled } from '../core/path/settled';
import { LRUCache } from 'lru-cache';

/** What all workers together keep. */
const HELD_BYTES = 80 * 2 ** 20;
const STAGE_BYTES = 320 * 2 ** 20;
/** A step that looks further than this, in samples, takes its input from tiles that are kept. */
const FAR = 24;

const bytesOf = ({ width, height, planes, alpha }: Raster): number =>
  Math.max(1, width * height * 4 * (planes.length + (alpha ? 1 : 0)));

const cacheOf = (bytes: number): LRUCache<string, Raster> =>
  new LRUCache({ maxSize: Math.floor(bytes), sizeCalculation: bytesOf });

/**
 * Evaluates with what is kept from before: the raster in front of the step being edited, and tiles in front of steps
 * that look far around, so that neighbouring regions share them and the ways they look do not add up.
 */
export class Stages {
  private readonly held: LRUCache<string, Raster>;
  private readonly tiles: LRUCache<string, Raster>;

  /**
   * @param part of the memory for kept rasters that these may take
   * @param goOn called before each step; what it throws ends the evaluation
   * @param settled results that are there over the whole picture
   */
  constructor(
    part = 1,
    private readonly goOn: () => void = () => undefined,
    private readonly settled: Settled = new Map()
  ) {
    this.held = cacheOf(HELD_BYTES * part);
    this.tiles = cacheOf(STAGE_BYTES * part);
  }

  clear(): void {
    this.held.clear();
    this.tiles.clear();
  }

  /** What was made on the way to a result over the whole picture: once that stands the next is made from it. */
  clearTiles(): void {
    this.tiles.clear();
  }

  /** @param hold how many of the first steps stay as they are for now */
  evaluated<T>(plan: Plan, level: number, rect: Rect, hold: number, use: (raster: Raster) => T): T {
    const { steps } = plan;
    const moving = steps.filter(({ op }) => op.kind === 'geometry').length;
    // A raster from between two straighten steps lies otherwise than the picture does.
    const keep = hold < moving ? 0 : hold;
    const far = steps.findLastIndex((step) => step.reach(2 ** -level) > FAR);
    const whole = lastSettled(plan, this.settled, 0)?.steps ?? 0;
    if (whole > keep && far < whole) return withEvaluated(plan, level, rect, null, use, this.surroundings);
    if (far > 0 && far >= keep) {
      const needed = neededRect(plan, far, level, rect);
      const raster = this.assembled(plan, level, needed, far, keep);
      return withEvaluated(plan, level, rect, { steps: far, raster }, use, this.surroundings);
    }
    return withEvaluated(
      plan,
      level,
      rect,
      keep > 0 ? this.heldBefore(plan, level, rect, keep) : null,
      use,
      this.surroundings
    );
  }

  /** Pictures beside a step stay while the step is worked on. */
  private readonly surroundings: Surroundings = {
    goOn: () => this.goOn(),
    settled: { get: (key) => this.settled.get(key) },
    besideOf: (plan, level, rect) => {
      const { x, y, width, height } = rect;
      const key = `beside ${level}/${x},${y},${width},${height}|${this.contentOf(plan)}`;
      let raster = this.held.get(key);
      if (!raster) {
        raster = withEvaluated(plan, level, rect, null, copied, this.surroundings);
        this.held.set(key, raster);
      }
      return raster;
    }
  };

  /** What the samples of a picture depend on, at any level: its result, and how much of that has settled. */
  private contentOf(plan: Plan): string {
    const from = lastSettled(plan, this.settled, 0)?.steps ?? 0;
    return [plan.keyAfter(plan.steps.length), from, unsettled(plan, this.settled)?.key].join('|');
  }

  private heldBefore(plan: Plan, level: number, rect: Rect, hold: number): Held {
    const needed = neededRect(plan, hold, level, rect);
    const { x, y, width, height } = needed;
    const key = `${level}/${x},${y},${width},${height}|${this.contentOf(planTo(plan, hold))}`;
    const masks = this.masksOver(key, needed);
    let raster = this.held.get(key);
    if (!raster) {
      raster = this.evaluated(planTo(plan, hold), level, needed, 0, copied);
      this.held.set(key, raster);
    }
    return { steps: hold, raster, masks };
  }

  /** While a step is worked on, its mask stays as its input does, unless it is the mask that is worked on. */
  private masksOver(key: string, rect: Rect): KeptMasks {
    return {
      get: (mask) => this.held.get(`${key}|mask ${mask}`)?.planes[0],
      set: (mask, plane) =>
        this.held.set(`${key}|mask ${mask}`, { ...rect, planes: [plane], encoding: 'coded', alpha: null })
    };
  }

  /** The picture after the first `count` steps over `rect`, put together from tiles. */
  private assembled(plan: Plan, level: number, rect: Rect, count: number, hold: number): Raster {
    const before = planTo(plan, count);
    const content = this.contentOf(before);
    const { width, height } = planSize(plan, level);
    const n = rect.width * rect.height;
    const out: Raster = {
      ...rect,
      planes: [0, 1, 2].map(() => new Float32Array(n)),
      encoding: encodingAt(before),
      alpha: plan.head.alpha ? new Float32Array(n) : null
    };
    for (const { column, row } of tilesIn(rect, width, height)) {
      const key = `${level}/${column},${row}|${content}`;
      let tile = this.tiles.get(key);
      if (!tile) {
        const at = tileRect(column, row, width, height);
        tile = this.evaluated(before, level, at, Math.min(hold, count), copied);
        this.tiles.set(key, tile);
      }
      paste(tile, out);
    }
    return out;
  }
}

/** Copies the part of `tile` that lies over `out` into it. */
function paste(tile: Raster, out: Raster): void {
  const left = Math.max(tile.x, out.x);
  const right = Math.min(tile.x + tile.width, out.x + out.width);
  const targets = out.alpha ? [...out.planes, out.alpha] : out.planes;
  const sources = tile.alpha ? [...tile.planes, tile.alpha] : tile.planes;
  for (let y = Math.max(tile.y, out.y); y < Math.min(tile.y + tile.height, out.y + out.height); y++) {
    const from = (y - tile.y) * tile.width - tile.x;
    const to = (y - out.y) * out.width - out.x;
    sources.forEach((plane, c) => targets[c].set(plane.subarray(from + left, from + right), to + left));
  }
}
