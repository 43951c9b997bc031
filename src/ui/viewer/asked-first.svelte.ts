import { getContext, setContext } from 'svelte';

/** What is done before the rest of the page follows a change: its workers are at it while that is laid out. */
class AskedFirst {
  ask = $state.raw<(() => void) | null>(null);
}

const KEY = Symbol('asked first');

/** Has what `askedFirst` is given done before all that is made after this call: to be called first by a page. */
export function provideAskedFirst(): void {
  const first = setContext(KEY, new AskedFirst());
  $effect.pre(() => first.ask?.());
}

/** Does `ask` with each change of what it reads, first of all where the page provides for that, for as long as the caller is there. */
export function askedFirst(ask: () => void): void {
  const first = getContext<AskedFirst | undefined>(KEY);
  if (first) first.ask = ask;
  $effect.pre(() => {
    if (!first) ask();
  });
  $effect(() => () => {
    if (first?.ask === ask) first.ask = null;
  });
}
