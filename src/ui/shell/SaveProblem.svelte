<script lang="ts">
  import type { Session } from '../bench/session.svelte';
  import Notice from './Notice.svelte';

  let { session }: { session: Session } = $props();

  const action = { title: 'Try again', run: () => void session.saving.flush() };
</script>

{#if session.saving.state === 'failed' && session.presence.editing}
  <Notice kind="error" title="Not saved." text={session.saving.problem} {action} />
{/if}
