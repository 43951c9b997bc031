<script lang="ts">
  import Pause from 'carbon-icons-svelte/lib/Pause.svelte';
  import Play from 'carbon-icons-svelte/lib/Play.svelte';
  import type { BenchState } from '../bench/bench.svelte';
  import { RATES, TIMES, ways } from '../bench/compare.svelte';
  import { arrowGroup } from '../shell/arrow-group';

  let { bench }: { bench: BenchState } = $props();
  const { compare } = $derived(bench);
</script>

<div class="bar">
  <div role="radiogroup" class="ways" aria-label="How the places are looked at" {@attach arrowGroup}>
    {#each ways as { id, title, says } (id)}
      <button
        class="tool"
        role="radio"
        aria-checked={compare.way === id}
        title={`${says} (C: the next way)`}
        onclick={() => compare.set({ way: id })}>{title}</button
      >
    {/each}
  </div>
  {#if compare.way === 'divider'}
    <button
      class="tool"
      title="Turn the dividing line: upright or level"
      onclick={() => compare.set({ upright: !compare.upright })}
      >{compare.upright ? 'Upright' : 'Level'}</button
    >
  {:else if compare.way === 'flip'}
    <button class="tool" title="See the next place (J)" onclick={() => compare.next()}>Next</button>
    <button
      class="tool"
      aria-pressed={compare.running}
      aria-label="Flip by itself"
      title="Flip by itself"
      onclick={() => (compare.running = !compare.running)}
      >{#if compare.running}<Pause size={16} />{:else}<Play size={16} />{/if}</button
    >
    <select
      class="tool-choice"
      aria-label="Flips a second"
      value={compare.rate}
      onchange={(event) => compare.set({ rate: Number(event.currentTarget.value) })}
    >
      {#each RATES as rate (rate)}<option value={rate}>{rate} a second</option>{/each}
    </select>
  {:else if compare.way === 'difference'}
    <select
      class="tool-choice"
      aria-label="Difference in"
      value={compare.by}
      onchange={(event) => compare.set({ by: event.currentTarget.value as 'samples' })}
    >
      <option value="samples">Red, green, blue</option>
      <option value="colours">ΔE 2000</option>
    </select>
    <select
      class="tool-choice"
      aria-label="Amplified"
      value={compare.times}
      onchange={(event) => compare.set({ times: Number(event.currentTarget.value) })}
    >
      {#each TIMES as times (times)}<option value={times}>× {times}</option>{/each}
    </select>
  {/if}
  <span class="space"></span>
  <button
    class="tool"
    aria-pressed={compare.telling}
    title="Tell the steps and numbers in which two places differ"
    onclick={() => (compare.telling = !compare.telling)}>What differs</button
  >
  <button
    class="tool"
    title={compare.forAWhile
      ? 'Bring back what was looked at before'
      : 'Close all places but the one that is worked on'}
    onclick={() => compare.closeOthers()}>{compare.forAWhile ? 'As before' : 'One place'}</button
  >
</div>

<style>
  .bar {
    display: flex;
    flex: none;
    align-items: center;
    gap: 4px;
    height: 32px;
    overflow: hidden;
    padding: 0 6px;
    background: var(--k-surface);
    border-bottom: 1px solid var(--k-line);
    white-space: nowrap;
  }
  .ways {
    display: flex;
  }
  .space {
    flex: 1;
  }
</style>
