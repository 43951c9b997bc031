<script lang="ts">
  import type { MixParams } from '$core/ops/mix';
  import type { Session } from '../bench/session.svelte';
  import MixPanel from './MixPanel.svelte';
  import SourcePanel from './SourcePanel.svelte';

  let { session }: { session: Session } = $props();
</script>

<section class="pane" aria-label="Work: the selected step">
  {#if session.step === null}
    <SourcePanel {session} />
  {:else}
    {#key session.step.id}
      <MixPanel {session} params={session.step.params as MixParams} />
    {/key}
  {/if}
</section>
