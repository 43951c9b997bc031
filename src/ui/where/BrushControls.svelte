<script lang="ts">
  import type { BenchState } from '../bench/bench.svelte';
  import Amount from '../work-pane/Amount.svelte';
  import { arrowGroup } from '../shell/arrow-group';

  let { bench }: { bench: BenchState } = $props();

  const { brush } = $derived(bench.masks);
</script>

<div class="brush" role="group" aria-label="Brush">
  <div class="two" role="radiogroup" {@attach arrowGroup} aria-label="What the brush does">
    {#each [false, true] as erase (erase)}
      <button
        class="tool raised"
        role="radio"
        aria-checked={brush.erase === erase}
        onclick={() => (brush.erase = erase)}>{erase ? 'Erase' : 'Paint'}</button
      >
    {/each}
  </div>
  <Amount
    label="size"
    name="Size of the brush"
    unit="px"
    value={brush.size}
    neutral={140}
    min={2}
    max={1000}
    most={4000}
    log
    digits={0}
    oninput={(v) => (brush.size = v)}
  />
  <Amount
    label="hardness"
    name="Hardness of the brush"
    value={100 * brush.hardness}
    neutral={30}
    min={0}
    max={100}
    oninput={(v) => (brush.hardness = v / 100)}
  />
  <Amount
    label="flow"
    name="Flow of the brush"
    value={100 * brush.flow}
    neutral={100}
    min={1}
    max={100}
    oninput={(v) => (brush.flow = v / 100)}
  />
  <p class="quiet">
    Shift draws a straight line from the last end. &lt; and &gt; change the size; Esc puts the brush away.
  </p>
</div>

<style>
  .brush {
    margin-bottom: 8px;
    padding: 6px 8px 8px;
    background: #202020;
    border: 1px solid var(--k-line);
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 4px;
    margin-bottom: 4px;
  }
  p {
    margin: 4px 0 0;
    font-size: 12px;
  }
</style>
