<script lang="ts">
  import { InlineNotification, NotificationActionButton } from 'carbon-components-svelte';

  interface Props {
    kind: 'error' | 'warning' | 'info' | 'success';
    title: string;
    text: string;
    /** What can be done about it; a notice with something to do stays until it is done, or closed where it can be. */
    action?: { readonly title: string; readonly disabled?: boolean; run(): void };
    onclose?: () => void;
  }
  let { kind, title, text, action, onclose }: Props = $props();
</script>

{#if action}
  <InlineNotification
    lowContrast
    {kind}
    hideCloseButton={!onclose}
    {title}
    subtitle={text}
    on:close={() => onclose?.()}
  >
    <svelte:fragment slot="actions">
      <NotificationActionButton disabled={action.disabled ?? false} on:click={() => action.run()}
        >{action.title}</NotificationActionButton
      >
    </svelte:fragment>
  </InlineNotification>
{:else}
  <InlineNotification lowContrast {kind} {title} subtitle={text} on:close={() => onclose?.()} />
{/if}
