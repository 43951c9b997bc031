<script lang="ts" generics="P">
  import type { Op } from '$core/ops/op';
  import type { Step } from '$core/document';
  import { controlsOf, putAt, valueAt, type Control, type Value } from '$core/ops/controls';
  import type { Session } from '../bench/session.svelte';
  import EachAmount from './EachAmount.svelte';
  import StepAmount from './StepAmount.svelte';

  /** Every number of a step, in the order of its schema. */
  let { session, step, op }: { session: Session; step: Step; op: Pick<Op<P>, 'id' | 'title' | 'params'> } =
    $props();

  function setEach({ key, label }: Control, value: Value, gesture?: string): void {
    session.changeStep(`${op.title}: ${label}`, ({ params }) => putAt(params, [key], value), gesture);
  }
</script>

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
