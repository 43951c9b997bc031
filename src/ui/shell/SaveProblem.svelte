<script lang="ts">
  import type { Session } from '../bench/session.svelte';
  import Notice from './Notice.svelte';

  let { session }: { session: Session } = $props();

  const action = { title: 'Try again', run: () => void session.flush() };
</script>

{#if session.saveState === 'failed' && session.presence.editing}
  <Notice kind="error" title="Not saved." text={session.saveProblem} {action} />
{/if}
