<script lang="ts">
  import type { Step } from '$core/document';
  import type { BenchState } from '../bench/bench.svelte';
  import { longWork } from '../long-work.svelte';
  import { roundsUpTo, Watched } from './watched-rounds.svelte';

  interface Props {
    bench: BenchState;
    step: Step;
    rounds: number;
    onkeep: (rounds: number) => void;
  }
  let { bench, step, rounds, onkeep }: Props = $props();

  const watched = new Watched(
    (seen) => (bench.roundsSeen = seen),
    () => longWork.on(step) !== undefined
  );
  // Another step, other numbers: what is watched is not what they make any more.
  const made = $derived(JSON.stringify([step.id, step.enabled, step.params]));
  $effect(() => {
    void made;
    return () => watched.stop();
  });

  function keep(): void {
    const { seen } = watched;
    watched.stop();
    if (seen !== null && seen !== rounds) onkeep(seen);
  }
</script>

<div class="watch">
  {#if watched.seen === null}
    <button
      class="tool raised"
      disabled={rounds < 2 || !step.enabled}
      title="Shows in Out what comes out after more and more of them"
      onclick={() => void watched.run(roundsUpTo(rounds))}>Watch them from the first</button
    >
  {:else}
    <button class="tool raised" onclick={keep}>Stop, and keep {watched.seen}</button>
    <button class="tool raised" onclick={() => watched.stop()}>Leave it at {rounds}</button>
  {/if}
  <p class="quiet" role="status">
    {#if watched.seen !== null}Out is after {watched.seen} of {rounds}{watched.stands ? '' : ' …'}{/if}
  </p>
</div>

<style>
  .watch {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
    align-items: center;
  }
  p {
    margin: 0;
    font-size: 12px;
  }
</style>
