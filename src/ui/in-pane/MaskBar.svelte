<script lang="ts">
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import { told } from '../numbers';
  import { arrowGroup } from '../shell/arrow-group';

  let { session, bench }: { session: Session; bench: BenchState } = $props();

  const masks = $derived(bench.masks);
  const views = [
    { id: 'mask', title: 'Mask' },
    { id: 'term', title: 'Term' },
    { id: 'drained', title: 'Grey outside' }
  ] as const;
  const hints = {
    mask: 'The mask as a grey picture',
    term: 'The selected term alone',
    drained: 'The picture, dim grey where the mask is not'
  };
  $effect(() => {
    if (masks.coverage === null && session.cursor.step) masks.measure();
  });
</script>

<div class="bar">
  <div role="radiogroup" {@attach arrowGroup} aria-label="How the mask is seen">
    {#each views as { id, title } (id)}
      <button
        class="tool"
        role="radio"
        aria-checked={masks.view === id}
        title={hints[id]}
        disabled={id === 'term' && !masks.term}
        onclick={() => (masks.view = id)}>{title}</button
      >
    {/each}
  </div>
  <button
    class="tool"
    aria-pressed={masks.inOut}
    title="See it in Out, too (M)"
    onclick={() => (masks.inOut = !masks.inOut)}>Also in Out</button
  >
  <span class="mono">{masks.coverage === null ? '' : `${told(masks.coverage, 1)} %`}</span>
</div>

<style>
  .bar {
    container-type: inline-size;
    display: flex;
    flex: none;
    align-items: center;
    height: 30px;
    overflow: hidden;
    padding: 0 4px;
    border-bottom: 1px solid var(--k-line);
  }
  .bar > div {
    display: flex;
    flex: none;
  }
  .tool {
    padding: 0 6px;
    font-size: 12px;
    white-space: nowrap;
  }
  /* It stands in Where, too. */
  @container (max-width: 340px) {
    .bar > span {
      display: none;
    }
  }
  .bar > span {
    margin-left: auto;
    padding-right: 6px;
    color: var(--k-bone);
  }
  [aria-checked='true'] {
    color: var(--k-bone);
    box-shadow: inset 0 -2px var(--k-bone);
  }
</style>
