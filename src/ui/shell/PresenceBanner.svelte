<script lang="ts">
  import { InlineNotification, NotificationActionButton } from 'carbon-components-svelte';
  import { KEPT_DAYS } from '$storage/kept';
  import type { Presence } from '../bench/presence.svelte';

  let { presence }: { presence: Presence } = $props();

  const TOLD = {
    following: {
      title: 'Edited in another tab.',
      text: 'You see it as it changes there.',
      action: 'Edit here'
    },
    deleted: {
      title: 'This document was deleted.',
      text: `It stays under “Deleted” on the home page for ${KEPT_DAYS} days.`,
      action: 'Put it back'
    },
    gone: {
      title: 'This document is not stored any more.',
      text: 'It was deleted for good or the browser’s storage was cleared; it is still on this page.',
      action: 'Put it back'
    }
  };
  const told = $derived(presence.state === 'editing' ? null : TOLD[presence.state]);
</script>

<div aria-live="polite">
  {#if told}
    <InlineNotification
      lowContrast
      kind={presence.state === 'following' ? 'info' : 'warning'}
      hideCloseButton
      title={told.title}
      subtitle={told.text}
    >
      <svelte:fragment slot="actions">
        <NotificationActionButton
          disabled={presence.busy}
          on:click={() => void (presence.state === 'following' ? presence.takeOver() : presence.putBack())}
          >{told.action}</NotificationActionButton
        >
      </svelte:fragment>
    </InlineNotification>
  {/if}
  {#if presence.problem}
    <InlineNotification
      lowContrast
      kind="error"
      title="To know."
      subtitle={presence.problem}
      on:close={() => (presence.problem = '')}
    />
  {/if}
</div>

<style>
  div :global(.bx--inline-notification) {
    max-width: none;
    margin: 0;
  }
</style>
