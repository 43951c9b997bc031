import type { Attachment } from 'svelte/attachments';

const CONTROLS = ':is(a[href], button:enabled, input:enabled, select:enabled, summary)';

const controlsIn = (part: Element): HTMLElement[] =>
  [...part.querySelectorAll<HTMLElement>(CONTROLS)].filter((control) => control.checkVisibility());

/** One of a list, or the last where there are fewer. */
const orLast = <T>(list: ArrayLike<T>, at: number): T | undefined => list[Math.min(at, list.length - 1)];

/** Gives the focus back to what had it before, where that is still there. */
export function focusAgain(before: EventTarget | null): void {
  if (before instanceof HTMLElement && before.isConnected) before.focus();
}

/**
 * Where what had the focus is gone from `part`, as in a row that was deleted, what came in its place has it: the same of the row that
 * stands there now, or of the last; where the whole list is gone, what follows it.
 */
export const keepFocus: Attachment<HTMLElement> = (part) => {
  let last: Element = part;
  let list: Element | null = null;
  let row = 0;
  let inRow = 0;
  let inPart = 0;

  function remember({ target }: FocusEvent): void {
    last = target as Element;
    let item = last.closest('li');
    // What a row offers in a menu is a list of its own.
    for (let outer = item; outer; outer = outer.parentElement!.closest('li')) item = outer;
    list = item?.parentElement ?? null;
    row = list ? [...list.children].indexOf(item!) : 0;
    inRow = item ? controlsIn(item).indexOf(target as HTMLElement) : 0;
    inPart = controlsIn(part).findIndex((control) => (list ?? last).contains(control));
  }

  function goOn(): void {
    if (last.isConnected || document.activeElement !== document.body) return;
    const there = list?.isConnected ? orLast(list.children, row) : undefined;
    const next = there ? orLast(controlsIn(there), inRow) : orLast(controlsIn(part), inPart);
    next?.focus();
  }

  part.addEventListener('focusin', remember);
  // The key that took it away is not for what has the focus next.
  const changes = new MutationObserver(() => void setTimeout(goOn));
  changes.observe(part, { subtree: true, childList: true });
  return () => {
    part.removeEventListener('focusin', remember);
    changes.disconnect();
  };
};
