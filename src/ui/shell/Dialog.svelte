<script lang="ts">
  import { tick, type Snippet } from 'svelte';

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
    if (before instanceof HTMLElement && before.isConnected) before.focus();
  }

  function keep(event: KeyboardEvent): void {
    if (!open || (event.target instanceof Element && event.target.closest('[role="dialog"]'))) return;
    event.stopImmediatePropagation();
    // From there on it has what follows too: a paste, say. The key itself presses no button that had no focus.
    take();
    if (['Tab', 'Enter', ' '].includes(event.key)) event.preventDefault();
    if (event.key === 'Escape') closer()?.click();
  }

  /** What is pasted or dropped is for a field of the dialog or for nothing; the browser would show a dropped file itself. */
  function refuse(event: ClipboardEvent | DragEvent): void {
    const field = '[role="dialog"] :is(input, textarea)';
    if (!open || (event.target instanceof Element && event.target.closest(field))) return;
    event.stopImmediatePropagation();
    event.preventDefault();
    if (event instanceof DragEvent && event.dataTransfer) event.dataTransfer.dropEffect = 'none';
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
