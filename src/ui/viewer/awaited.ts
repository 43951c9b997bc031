const awaiting = new Set<object>();

/** Says of a view whether somebody waits to see a change in it. */
export function setAwaited(view: object, awaited: boolean): void {
  if (awaited) awaiting.add(view);
  else awaiting.delete(view);
}

/** Whether a change is on its way to the screen, so that what can wait had better wait. */
export const isAwaited = (): boolean => awaiting.size > 0;
