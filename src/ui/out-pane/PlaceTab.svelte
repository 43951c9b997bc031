<script lang="ts">
  import Close from 'carbon-icons-svelte/lib/Close.svelte';
  import type { BenchState } from '../bench/bench.svelte';
  import { readings } from '../numbers';

  interface Props {
    bench: BenchState;
    at: number;
  }
  let { bench, at }: Props = $props();

  const { compare, reader } = $derived(bench);
  const selected = $derived(compare.selected === at);
  const seen = $derived(compare.way === 'flip' ? compare.flipped === at : selected);
  /** Of two that are looked at together, it is one. */
  const inPair = $derived(['divider', 'difference'].includes(compare.way) && compare.pair.includes(at));
  const rgb = $derived(selected ? (reader.values?.[1] ?? null) : compare.reading(at));
  const told = $derived(
    compare.pointer && rgb ? readings(rgb, compare.encoding(at), ['rgb.r', 'rgb.g', 'rgb.b']) : []
  );
</script>

<div class="place-tab" class:seen class:against={inPair && !seen}>
  <button
    class="choose"
    aria-pressed={selected}
    title={`${compare.title(at)}. ${
      selected
        ? 'This place is worked on: choose a picture or a step, and it is seen here'
        : 'Press to work on this place (J: the next)'
    }`}
    onclick={() => (compare.way === 'flip' ? (compare.flipped = at) : undefined, void compare.select(at))}
    ><b class="mono">{at + 1}</b> <span class="name">{compare.title(at)}</span></button
  >
  {#if told.length > 0}
    <span class="mono told"
      >{#each told as { channel, text } (channel.id)}<span><i>{channel.sign}</i> {text}</span>{/each}</span
    >
  {/if}
  <button
    class="close"
    aria-label={`Close place ${at + 1}`}
    title="Close this place"
    onclick={() => void compare.close(at)}><Close size={16} /></button
  >
</div>

<style>
  .place-tab {
    display: flex;
    align-items: center;
    max-width: 100%;
    height: 26px;
    background: rgb(20 20 20 / 85%);
    color: var(--k-text-quiet);
    pointer-events: auto;
  }
  .seen {
    box-shadow: inset 0 2px var(--k-bone);
    color: var(--k-text);
  }
  .against {
    box-shadow: inset 0 2px var(--k-bone-dim);
    color: var(--k-text);
  }
  button {
    border: 0;
    background: none;
    color: inherit;
    font: inherit;
    cursor: pointer;
  }
  .choose {
    display: flex;
    gap: 7px;
    min-width: 0;
    height: 100%;
    padding: 0 4px 0 9px;
    align-items: center;
  }
  button:hover {
    color: var(--k-text);
  }
  b {
    color: var(--k-bone);
    font-weight: 400;
  }
  .name {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .told {
    display: flex;
    gap: 7px;
    padding: 0 4px;
    color: var(--k-text);
    font-size: 11px;
    white-space: nowrap;
  }
  .told span {
    min-width: 6ch;
    text-align: right;
  }
  i {
    color: var(--k-text-quiet);
    font-style: normal;
  }
  .close {
    display: grid;
    place-content: center;
    flex: none;
    width: 24px;
    height: 100%;
    padding: 0;
  }
</style>
