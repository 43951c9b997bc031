<script lang="ts">
  import { dndzone, TRIGGERS, type DndEvent } from 'svelte-dnd-action';
  import { tick } from 'svelte';
  import { insideOf, titleOf, type Step } from '$core/document';
  import { opOf } from '$core/ops';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import { moveInto, moveStep, orderSteps } from '../bench/steps';
  import { dragging, DragOrder, type Dragged } from '../drag-order.svelte';
  import StepChip from './StepChip.svelte';
  import StepList from './StepList.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    steps: readonly Step[];
    /** The group whose steps these are; left out for the path itself. */
    group?: Step;
    oncopy: (steps: readonly Step[]) => void;
    onpaste: () => void;
  }
  let { session, bench, steps, group, oncopy, onpaste }: Props = $props();

  const order = new DragOrder(() => steps);
  const chosen = $derived(bench.chosen);

  function finalize(event: CustomEvent<DndEvent<Dragged<Step>>>): void {
    const ids = order.end(event);
    const { id, trigger } = event.detail.info;
    // Where a chip has left for another list, that one takes it.
    if (trigger !== TRIGGERS.DROPPED_INTO_ZONE) return;
    if (steps.some((s) => s.id === id)) orderSteps(session, ids);
    else moveInto(session, id, group?.id ?? null, ids.indexOf(id));
  }

  function onkeydown(event: KeyboardEvent, step: Step): void {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key] as 1 | -1 | undefined;
    if (!by || !event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    moveStep(session, step, by);
    // Where the chip stands now, so that the next press moves it on.
    void tick().then(() => document.querySelector<HTMLElement>(`[data-step="${step.id}"]`)?.focus());
  }
</script>

<ol
  class:inside={group}
  aria-label={group ? `Steps of ${titleOf(group)}` : undefined}
  use:dndzone={dragging(order.items, 'step')}
  onconsider={order.consider}
  onfinalize={finalize}
>
  {#each order.items as item (item.id)}
    {@const step = item.now()}
    <li>
      <StepChip
        {session}
        {bench}
        {step}
        title={titleOf(step)}
        subtitle={opOf(step.op).sentence(step.params)}
        at={{ after: step.id }}
        selected={session.cursor.step?.id === step.id}
        among={chosen.length > 1 && chosen.includes(step)}
        onselect={(range) => bench.choose(step, range)}
        {oncopy}
        {onpaste}
        onkeydown={(event) => onkeydown(event, step)}
      />
      {#if opOf(step.op).inside && bench.isUnfolded(step)}
        <StepList {session} {bench} steps={insideOf(step)} group={step} {oncopy} {onpaste} />
      {/if}
    </li>
  {:else}
    {#if group}<li class="empty">drag steps here</li>{/if}
  {/each}
</ol>

<style>
  ol,
  li {
    flex: none;
  }
  ol {
    display: flex;
    align-items: center;
    min-width: 12px;
    height: 66px;
    margin: 0;
    padding: 0;
    list-style: none;
  }
  li {
    display: flex;
    align-items: center;
  }
  li::before,
  ol:not(.inside)::after {
    content: '';
    width: 12px;
    height: 1px;
    background: #555;
  }
  /* What is inside a group stands in brackets. */
  .inside {
    box-sizing: border-box;
    min-width: 112px;
    height: 74px;
    padding: 0 10px 0 0;
    border: solid var(--k-bone-dim);
    border-width: 0 2px 0 0;
    background:
      linear-gradient(var(--k-bone-dim), var(--k-bone-dim)) top / 100% 2px no-repeat,
      linear-gradient(var(--k-bone-dim), var(--k-bone-dim)) bottom / 100% 2px no-repeat;
  }
  .empty {
    padding-left: 12px;
    color: var(--k-text-quiet);
    font-size: 12px;
  }
  .empty::before {
    display: none;
  }
</style>
