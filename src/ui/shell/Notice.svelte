<script lang="ts">
  import { tick } from 'svelte';
  import { InlineNotification, NotificationActionButton } from 'carbon-components-svelte';
  import { focusAgain } from './focus';

  interface Props {
    kind: 'error' | 'warning' | 'info' | 'success';
    title: string;
    text: string;
    /** What can be done about it; a notice with something to do stays until it is done, or closed where it can be. */
    action?: { readonly title: string; readonly disabled?: boolean; run(): void };
    onclose?: () => void;
  }
  let { kind, title, text, action, onclose }: Props = $props();

  let host: HTMLElement;
  /** What had the focus before this: it has it again once this is closed. */
  let before: EventTarget | null = null;

  function close(): void {
    onclose?.();
    void tick().then(() => focusAgain(before));
  }
</script>

<div
  bind:this={host}
  role="presentation"
  onfocusin={({ relatedTarget: from }) => {
    if (!(from instanceof Node && host.contains(from))) before = from;
  }}
>
  {#if action}
    <InlineNotification
      lowContrast
      {kind}
      hideCloseButton={!onclose}
      {title}
      subtitle={text}
      on:close={close}
    >
      <svelte:fragment slot="actions">
        <NotificationActionButton disabled={action.disabled ?? false} on:click={() => action.run()}
          >{action.title}</NotificationActionButton
        >
      </svelte:fragment>
    </InlineNotification>
  {:else}
    <InlineNotification lowContrast {kind} {title} subtitle={text} on:close={close} />
  {/if}
</div>
