import type { BenchState } from '../bench/bench.svelte';
import { Follower } from '../bench/follower.svelte';
import { trouble } from '../bench/trouble.svelte';

/**
 * The numbers that the selected step solves from the picture, anew whenever the picture may be another; null before they are there
 * and while they are not asked for. To be called while a component is made.
 * @param what it is, as it is told where it fails
 */
export function solvedNumbers<T>(
  bench: () => BenchState,
  what: string,
  isAsked: () => boolean
): { readonly value: T | null } {
  const solving = new Follower(what, async () => (await bench().solved()) as T | null);
  $effect(() => {
    const { cursor } = bench().session;
    void [cursor.active, cursor.pins, trouble.round];
    if (isAsked()) solving.ask(null);
    else solving.clear();
  });
  return {
    get value() {
      return solving.value;
    }
  };
}
