<script lang="ts">
  import { tick, type Snippet } from 'svelte';

  /**
   * A dialog: made when it is first opened, and kept, since a screen with all its dialogs takes long to come. As it
   * closes the focus goes back to where it was, at once, and not at all where it has gone on already.
   */
  let { open, children }: { open: boolean; children: Snippet } = $props();

  let wasOpened = $state(false);
  let before: Element | null = null;
  $effect.pre(() => {
    if (!open) return;
    wasOpened = true;
    before = document.activeElement;
    return () => void tick().then(giveBack);
  });

  function giveBack(): void {
    const at = document.activeElement;
    if (at && at !== document.body && !at.closest('[inert]')) return;
    if (before instanceof HTMLElement && before.isConnected) before.focus();
  }
</script>

{#if open || wasOpened}{@render children()}{/if}
