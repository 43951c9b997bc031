<script lang="ts">
  import { tick } from 'svelte';
  import { allSteps, type Step } from '$core/document';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import AddStep from './AddStep.svelte';
  import StepChip from './StepChip.svelte';
  import StepList from './StepList.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    adding: boolean;
    oncopy: (steps: readonly Step[]) => void;
    onpaste: () => void;
    onlooks: () => void;
  }
  let { session, bench, adding = $bindable(), oncopy, onpaste, onlooks }: Props = $props();

  const files = $derived(session.cursor.headFrames.map(({ frame }) => frame.file).join(', '));
  const megapixels = $derived(((session.cursor.head.width * session.cursor.head.height) / 1e6).toFixed(1));

  let row: HTMLDivElement | undefined = $state();
  // The selected step is always in sight.
  const count = $derived(allSteps(session.cursor.picture.steps).length);
  $effect(() => {
    void session.cursor.stepId;
    void count;
    void tick().then(() =>
      row?.querySelector('.selected')?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
    );
  });
</script>

<nav class="path" aria-label="Path">
  <div class="row" bind:this={row}>
    <StepChip
      {session}
      {bench}
      title="Source"
      subtitle={[`${megapixels} MP`, files].filter(Boolean).join(' · ')}
      at="head"
      selected={session.cursor.step === null}
      onselect={() => session.select(null)}
    />
    <StepList {session} {bench} steps={session.cursor.picture.steps} {oncopy} {onpaste} />
  </div>
  <AddStep {session} {bench} bind:open={adding} />
  <button
    class="tool looks"
    aria-pressed={bench.shelf.open}
    title="Looks that were kept, each on this picture (L)"
    onclick={onlooks}>Looks</button
  >
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
  .looks {
    flex: none;
    margin-left: auto;
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
  .row > :global(.chip) {
    flex: none;
  }
</style>
