import type { Attachment } from 'svelte/attachments';
import { arrowStep } from '../arrows';

const CHOSEN = '[aria-checked="true"], [aria-expanded="true"], [aria-pressed="true"]';

/**
 * A group of buttons as one stop of the Tab key, among which the arrows move (WAI-ARIA: radio group, toolbar). Radios are chosen as
 * they are reached; other buttons wait for Enter.
 */
export const arrowGroup: Attachment<HTMLElement> = (group) => {
  const buttons = (): HTMLButtonElement[] => [...group.querySelectorAll<HTMLButtonElement>('button:enabled')];
  const isRadio = (button: HTMLElement): boolean => button.getAttribute('role') === 'radio';

  /** One of them is reached by Tab: the one that has the focus, or the chosen one, or the first. */
  function rove(): void {
    const all = buttons();
    const stop =
      all.find((b) => b === document.activeElement) ?? all.find((b) => b.matches(CHOSEN)) ?? all[0];
    for (const button of all) button.tabIndex = button === stop ? 0 : -1;
  }

  function onkeydown(event: KeyboardEvent): void {
    if (event.altKey || event.ctrlKey || event.metaKey) return;
    const all = buttons();
    const at = all.indexOf(document.activeElement as HTMLButtonElement);
    const [right, down] = arrowStep(event);
    const by = right + down;
    if (by === 0 || at < 0) return;
    event.preventDefault();
    event.stopPropagation();
    const next = all[(at + by + all.length) % all.length];
    next.focus();
    if (isRadio(next)) next.click();
    rove();
  }

  rove();
  const changes = new MutationObserver(rove);
  changes.observe(group, {
    ...{ subtree: true, childList: true, attributes: true },
    attributeFilter: ['aria-checked', 'aria-expanded', 'aria-pressed', 'disabled']
  });
  group.addEventListener('keydown', onkeydown);
  group.addEventListener('focusin', rove);
  return () => {
    changes.disconnect();
    group.removeEventListener('keydown', onkeydown);
    group.removeEventListener('focusin', rove);
  };
};
