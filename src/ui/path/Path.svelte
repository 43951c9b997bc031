<script lang="ts">
  import { dndzone, TRIGGERS, type DndEvent } from 'svelte-dnd-action';
  import { tick } from 'svelte';
  import type { Step } from '$core/document';
  import { opOf } from '$core/ops';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import { moveStep, orderSteps } from '../bench/steps';
  import AddStep from './AddStep.svelte';
  import StepChip from './StepChip.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    adding: boolean;
    oncopy: (steps: readonly Step[]) => void;
    onpaste: () => void;
  }
  let { session, bench, adding = $bindable(), oncopy, onpaste }: Props = $props();

  const frame = $derived(
    session.document.frames.find(
      (f) => session.picture.head.kind === 'frame' && f.id === session.picture.head.frame
    )
  );
  const megapixels = $derived(((session.opened.frame.width * session.opened.frame.height) / 1e6).toFixed(1));

  let row: HTMLDivElement | undefined = $state();
  // The selected step is always in sight.
  const count = $derived(session.picture.steps.length);
  $effect(() => {
    void session.stepId;
    void count;
    void tick().then(() =>
      row?.querySelector('.selected')?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
    );
  });

  /** The chips in the order in which they are being dragged; the path's own order otherwise. */
  let dragged = $state.raw<Step[] | null>(null);
  const items = $derived<Step[]>(dragged ?? [...session.picture.steps]);

  function consider({ detail }: CustomEvent<DndEvent<Step>>): void {
    dragged = detail.items;
  }

  function finalize({ detail }: CustomEvent<DndEvent<Step>>): void {
    dragged = null;
    if (detail.info.trigger !== TRIGGERS.DRAG_STOPPED)
      orderSteps(
        session,
        detail.items.map((s) => s.id)
      );
  }

  /** Active steps up to and with a step. */
  function activeThrough(step: Step): readonly Step[] {
    const at = session.active.indexOf(step);
    if (at >= 0) return session.active.slice(0, at + 1);
    const { steps } = session.picture;
    return steps.slice(0, steps.indexOf(step)).filter((s) => s.enabled);
  }

  function onkeydown(event: KeyboardEvent, step: Step): void {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key] as 1 | -1 | undefined;
    if (!by || !event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    moveStep(session, step, by);
  }
</script>

<nav class="path" aria-label="Path">
  <div class="row" bind:this={row}>
    <StepChip
      {session}
      {bench}
      title="Source"
      subtitle={`${megapixels} MP · ${frame?.file ?? ''}`}
      steps={[]}
      selected={session.step === null}
      onselect={() => session.select(null)}
    />
    <ol
      use:dndzone={{
        items,
        flipDurationMs: 120,
        type: 'step',
        dropTargetStyle: {},
        delayTouchStart: true,
        autoAriaDisabled: true,
        zoneTabIndex: -1,
        zoneItemTabIndex: -1
      }}
      onconsider={consider}
      onfinalize={finalize}
    >
      {#each items as step (step.id)}
        <li>
          <StepChip
            {session}
            {bench}
            {step}
            title={step.name ?? opOf(step.op).title}
            subtitle={opOf(step.op).sentence(step.params)}
            steps={activeThrough(step)}
            selected={session.step?.id === step.id}
            onselect={() => session.select(step.id)}
            {oncopy}
            {onpaste}
            onkeydown={(event) => onkeydown(event, step)}
          />
        </li>
      {/each}
    </ol>
  </div>
  <AddStep {session} {bench} bind:open={adding} />
</nav>

<style>
  .path {
    display: flex;
    align-items: center;
    height: 84px;
    padding-right: 12px;
    background: var(--k-surface);
    border-bottom: 1px solid var(--k-line);
  }
  .path > :global(.add-step) {
    flex: none;
  }
  .row {
    display: flex;
    flex: 0 1 auto;
    align-items: center;
    min-width: 0;
    height: 100%;
    overflow-x: auto;
    overflow-y: hidden;
    padding-left: 12px;
    scrollbar-width: thin;
    scrollbar-color: #555 transparent;
  }
  .row > :global(.chip),
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
  ol::after {
    content: '';
    width: 12px;
    height: 1px;
    background: #555;
  }
</style>
