import type { Tabs } from './tabs';

/** A tab that is alone: it holds what it asks for at once, and nobody hears it. */
export const onlyTab = (): Partial<Tabs> => ({
  isFree: () => Promise.resolve(true),
  hold: (_id, _signal, _answer, onHeld) => Promise.resolve(onHeld()),
  onChange: () => () => undefined,
  tell: () => undefined,
  adding: (work) => work()
});
