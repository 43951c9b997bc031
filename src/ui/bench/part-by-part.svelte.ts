import type { Rect } from '$core/raster/raster';
import { Follower } from './follower.svelte';
import { partsOf } from './full-size';

/** What is gathered over a picture's parts. */
interface Gathering<T> {
  /** Of the picture at full size. */
  readonly size: { readonly width: number; readonly height: number };
  /** Looks at one part, and adds what it is told there. */
  add(rect: Rect, how: { readonly priority: number; readonly signal: AbortSignal }): Promise<void>;
  /** What is known so far. @param part how much of the picture has been looked at, 0…1; all of it is exactly 1 */
  soFar(part: number): T;
}

/** After the last change; until then nothing of the pool's time is taken, in ms. */
const PATIENCE = 300;
const PRIORITY = 7;
/** What is not known of the whole yet is told this often, in ms. */
const TOLD_EVERY = 250;

/** What is known of a picture at full size, part by part, while nothing more urgent is to be done. */
export class PartByPart<A, T> {
  private key = '';
  private readonly follower: Follower<A, T>;

  /** @param what is read, as a person is told where it fails */
  constructor(what: string, gathering: (asked: A) => Gathering<T>) {
    this.follower = new Follower<A, T>(
      what,
      async (asked, { tell, signal }) => {
        const { size, add, soFar } = gathering(asked);
        let [seen, told] = [0, 0];
        const part = (): number => seen / (size.width * size.height);
        await Promise.all(
          partsOf(size).map(async (rect) => {
            await add(rect, { priority: PRIORITY, signal });
            seen += rect.width * rect.height;
            if (performance.now() - told <= TOLD_EVERY) return;
            tell(soFar(part()));
            told = performance.now();
          })
        );
        return soFar(part());
      },
      { patience: PATIENCE, interrupts: true }
    );
  }

  /** Null until some of it was looked at. */
  get value(): T | null {
    return this.follower.value;
  }

  /** @param key of what is asked: the same again is not looked at again */
  ask(asked: A, key: string): void {
    if (key === this.key) return;
    this.stop();
    this.key = key;
    this.follower.ask(asked);
  }

  stop(): void {
    this.follower.clear();
    this.key = '';
  }
}
