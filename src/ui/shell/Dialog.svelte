<script lang="ts">
  import { tick, type Snippet } from 'svelte';
  import { focusAgain } from './focus';

  /**
   * A dialog: made when it is first opened, and kept, since a screen with all its dialogs takes long to come. While it is
   * open it has the keys, wherever the focus is, and what lies behind is given no files. As it closes the focus goes back to
   * where it was, at once, and not at all where it has gone on already.
   */
  let { open, children }: { open: boolean; children: Snippet } = $props();

  let host: HTMLElement | undefined = $state();
  let wasOpened = $state(false);
  let before: Element | null = null;
  $effect.pre(() => {
    if (!open) return;
    wasOpened = true;
    before = document.activeElement;
    return () => void tick().then(giveBack);
  });
  $effect(() => {
    if (open) void tick().then(take);
  });

  const closer = (): HTMLElement | null | undefined =>
    host?.querySelector<HTMLElement>('.is-visible .bx--modal-close');

  /** The focus, where what should have it can’t: a button that is disabled, or gone. */
  function take(): void {
    if (open && !host?.contains(document.activeElement)) closer()?.focus();
  }

  function giveBack(): void {
    const at = document.activeElement;
    if (at && at !== document.body && !at.closest('[inert]')) return;
    focusAgain(before);
  }

  function keep(event: KeyboardEvent): void {
    if (!open || (event.target instanceof Element && event.target.closest('[role="dialog"]'))) return;
    event.stopImmediatePropagation();
    // From there on it has what follows too: a paste, say. The key itself presses no button that had no focus.
    take();
    if (['Tab', 'Enter', ' '].includes(event.key)) event.preventDefault();
    if (event.key === 'Escape') closer()?.click();
  }

  const FIELDS =
    '[role="dialog"] :is(textarea, input:not([type="checkbox"], [type="radio"], [type="range"], [type="file"]))';

  /** Text is for a field of the dialog, and all else that is pasted or dropped for nothing: the browser would show a file itself. */
  function refuse(event: ClipboardEvent | DragEvent): void {
    if (!open) return;
    event.stopImmediatePropagation();
    const given = event instanceof DragEvent ? event.dataTransfer : event.clipboardData;
    const inField = event.target instanceof Element && event.target.closest(FIELDS);
    if (inField && given?.types.includes('text/plain')) return;
    event.preventDefault();
    if (event instanceof DragEvent && given) given.dropEffect = 'none';
  }
</script>

<svelte:window
  onkeydowncapture={keep}
  onpastecapture={refuse}
  ondragovercapture={refuse}
  ondropcapture={refuse}
/>

{#if open || wasOpened}<div bind:this={host}>{@render children()}</div>{/if}

<style>
  div {
    display: contents;
  }
</style>
