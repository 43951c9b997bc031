<script lang="ts">
  import { InlineNotification, NotificationActionButton } from 'carbon-components-svelte';
  import { trouble } from '../bench/trouble.svelte';

  const MOST_NAMED = 3;
  const what = $derived([...trouble.told.keys()]);
  const why = $derived([...new Set(trouble.told.values())][0] ?? '');
  const names = $derived(
    what.length > MOST_NAMED
      ? `${what.slice(0, MOST_NAMED).join(', ')} and ${what.length - MOST_NAMED} more`
      : what.join(', ')
  );
</script>

<div aria-live="polite">
  {#if what.length}
    <InlineNotification
      lowContrast
      kind="error"
      hideCloseButton
      title={`Not computed: ${names}.`}
      subtitle={`${why} What is shown of it is from before; the document itself is whole.`}
    >
      <svelte:fragment slot="actions">
        <NotificationActionButton on:click={() => trouble.again()}>Try again</NotificationActionButton>
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
