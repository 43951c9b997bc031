<script lang="ts">
  import { opOf } from '$core/ops';
  import type { PanelProps } from './panels';
  import StepAmounts from './StepAmounts.svelte';

  let { session, step }: PanelProps = $props();

  const op = $derived(opOf(step.op));
</script>

<div class="panel">
  <StepAmounts {session} {step} {op} />
  {#if op.remark}<p class="quiet">{op.remark}</p>{/if}
</div>

<style>
  p {
    margin: 8px 0 0;
    font-size: 12px;
  }
</style>
