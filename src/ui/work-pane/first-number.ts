import { tick } from 'svelte';

/** Goes to the first number of the selected step's panel, or to its first control where it has no number. */
export async function goToFirstNumber(): Promise<void> {
  await tick();
  const panel = document.querySelector('[aria-label="Work: the selected step"] .scroll');
  const control =
    panel?.querySelector<HTMLElement>('input.number:enabled') ??
    panel?.querySelector<HTMLElement>(':is(input, select, button):enabled:not([tabindex="-1"])');
  control?.focus();
}
