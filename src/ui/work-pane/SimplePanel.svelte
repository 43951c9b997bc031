<script lang="ts">
  import { opOf } from '$core/ops';
  import { controlsOf, putAt, valueAt, type Control, type Value } from '$core/ops/controls';
  import type { PanelProps } from './panels';
  import EachAmount from './EachAmount.svelte';
  import StepAmount from './StepAmount.svelte';

  let { session, step }: PanelProps = $props();

  const op = $derived(opOf(step.op));

  function setEach({ key, label }: Control, value: Value, gesture?: string): void {
    session.changeStep(`${op.title}: ${label}`, ({ params }) => putAt(params, [key], value), gesture);
  }
</script>

<div class="panel">
  {#each controlsOf(op) as control (control.key)}
    {@const name = `${op.title} ${control.label}`}
    {#if control.each}
      <EachAmount
        {control}
        {step}
        {name}
        value={valueAt<Value>(step.params, [control.key])}
        neutral={control.usual}
        onset={(value, gesture) => setEach(control, value, gesture)}
        onend={() => session.endGesture()}
      />
    {:else}
      <StepAmount {session} {step} {op} path={[control.key]} {name} />
    {/if}
  {/each}
  {#if op.remark}<p class="quiet">{op.remark}</p>{/if}
</div>

<style>
  p {
    margin: 8px 0 0;
    font-size: 12px;
  }
</style>
