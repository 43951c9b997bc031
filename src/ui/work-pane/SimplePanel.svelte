<script lang="ts">
  import { opOf } from '$core/ops';
  import { controlsOf, setValue, valuesOf } from '$core/ops/controls';
  import type { PanelProps } from './panels';
  import Amount from './Amount.svelte';
  import EachAmount from './EachAmount.svelte';

  let { session, step }: PanelProps = $props();

  const op = $derived(opOf(step.op));
  const controls = $derived(controlsOf(op));
  const params = $derived(valuesOf(step));

  type Value = Parameters<typeof setValue>[2];
  function set(key: string, value: Value, label: string, gesture?: string): void {
    session.changeStep(`${op.title}: ${label}`, (draft) => setValue(draft, key, value), gesture);
  }
</script>

<div class="panel">
  {#each controls as control (control.key)}
    {@const { worth } = control}
    {#if control.each}
      <EachAmount
        {control}
        {step}
        name={`${op.title} ${control.label}`}
        value={params[control.key]}
        neutral={control.usual}
        onset={(value, gesture) => set(control.key, value, control.label, gesture)}
        onend={() => session.endGesture()}
      />
    {:else}
      <Amount
        {...control}
        name={`${op.title} ${control.label}`}
        value={(params[control.key] as number) / worth}
        neutral={control.usual / worth}
        oninput={(v) => set(control.key, v * worth, control.label, control.key)}
        onend={() => session.endGesture()}
      />
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
