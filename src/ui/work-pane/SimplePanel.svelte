<script lang="ts">
  import { opOf } from '$core/ops';
  import type { PanelProps } from './panels';
  import Amount from './Amount.svelte';
  import EachAmount from './EachAmount.svelte';
  import { controls, remarks } from './controls';

  let { session, step }: PanelProps = $props();

  const op = $derived(opOf(step.op));
  const usual = $derived(op.params.parse({}) as Record<string, number>);
  const params = $derived(step.params as Record<string, number | Record<string, number>>);

  function set(key: string, value: unknown, label: string, gesture?: string): void {
    session.changeStep(
      `${op.title}: ${label}`,
      (draft) => ((draft.params as Record<string, unknown>)[key] = value),
      gesture
    );
  }
</script>

<div class="panel">
  {#each controls[step.op] ?? [] as control (control.key)}
    {@const worth = control.worth ?? 1}
    {#if control.each}
      <EachAmount
        {control}
        {step}
        name={`${op.title} ${control.label}`}
        value={params[control.key]}
        neutral={usual[control.key]}
        onset={(value, gesture) => set(control.key, value, control.label, gesture)}
        onend={() => session.endGesture()}
      />
    {:else}
      <Amount
        {...control}
        name={`${op.title} ${control.label}`}
        value={(params[control.key] as number) / worth}
        neutral={usual[control.key] / worth}
        oninput={(v) => set(control.key, v * worth, control.label, control.key)}
        onend={() => session.endGesture()}
      />
    {/if}
  {/each}
  {#if remarks[step.op]}<p class="quiet">{remarks[step.op]}</p>{/if}
</div>

<style>
  p {
    margin: 8px 0 0;
    font-size: 12px;
  }
</style>
