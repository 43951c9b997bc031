/**
 * A menu goes as one of its items is chosen. The focus is given to the menu's button before the item does anything, so
 * that what is opened then gives it back to something that is there.
 */
export function focusMenuButton({ target }: Event): void {
  const menu = target instanceof Element && target.closest('[role="menuitem"]')?.closest('[role="menu"]');
  if (menu) document.querySelector<HTMLElement>(`[aria-controls="${menu.id}"]`)?.focus();
}
