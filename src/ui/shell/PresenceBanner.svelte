<script lang="ts">
  import { KEPT_DAYS } from '$storage/kept';
  import type { Presence } from '../bench/presence.svelte';
  import Notice from './Notice.svelte';

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

{#if told}
  <Notice
    kind={presence.state === 'following' ? 'info' : 'warning'}
    title={told.title}
    text={told.text}
    action={{
      title: told.action,
      disabled: presence.busy,
      run: () => void (presence.state === 'following' ? presence.takeOver() : presence.putBack())
    }}
  />
{/if}
{#if presence.problem}
  <Notice kind="error" title="To know." text={presence.problem} onclose={() => (presence.problem = '')} />
{/if}
