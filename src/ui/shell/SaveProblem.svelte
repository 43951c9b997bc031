<script lang="ts">
  import { InlineNotification, NotificationActionButton } from 'carbon-components-svelte';
  import type { Session } from '../bench/session.svelte';

  let { session }: { session: Session } = $props();
</script>

<div aria-live="polite">
  {#if session.saveState === 'failed'}
    <InlineNotification
      lowContrast
      kind="error"
      hideCloseButton
      title="Not saved."
      subtitle={session.saveProblem}
    >
      <svelte:fragment slot="actions">
        <NotificationActionButton on:click={() => void session.flush()}>Try again</NotificationActionButton>
      </svelte:fragment>
    </InlineNotification>
  {/if}
</div>

<style>
  div :global(.bx--inline-notification) {
    max-width: none;
    margin: 0;
  }
</style>
