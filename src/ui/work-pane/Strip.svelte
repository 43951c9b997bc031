<script lang="ts" generics="T extends { readonly id: string; readonly title: string }">
  import type { Snippet } from 'svelte';
  import type { Step } from '$core/document';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import PictureView from '../viewer/PictureView.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    label: string;
    items: readonly T[];
    /** What a button does, where that is more than its title. */
    hint?: (item: T) => string;
    /** All at once in two rows of five, instead of a row that scrolls. */
    folded?: boolean;
    chosen?: (item: T) => boolean;
    /** The step as it would be with an item. */
    step: (item: T) => Step;
    onchoose: (item: T) => void;
    title: Snippet<[T]>;
  }
  let {
    session,
    bench,
    label,
    items,
    hint = (item) => item.title,
    folded = false,
    chosen,
    step,
    onchoose,
    title
  }: Props = $props();
</script>

<div class="strip" class:folded role="group" aria-label={label}>
  {#each items as item (item.id)}
    <button
      class:chosen={chosen?.(item)}
      aria-pressed={chosen?.(item)}
      aria-label={item.title}
      title={hint(item)}
      onclick={() => onchoose(item)}
    >
      <span class="thumbnail"
        ><PictureView
          shown={{ ...session.cursor.showing([...session.cursor.stepsBefore, step(item)]), view: 'colour' }}
          viewport={bench.viewport}
          role="small"
          label=""
          priority={5}
          delay={120}
        /></span
      >
      <span class="title">{@render title(item)}</span>
    </button>
  {/each}
</div>

<style>
  .strip {
    display: grid;
    grid-auto-columns: 84px;
    grid-auto-flow: column;
    gap: 5px;
    overflow-x: auto;
    margin: 0 -12px;
    padding: 2px 12px 8px;
    scrollbar-width: thin;
    scrollbar-color: #555 transparent;
  }
  .folded {
    grid-template-columns: repeat(5, 1fr);
    grid-auto-flow: row;
    overflow: visible;
  }
  button {
    min-width: 0;
    padding: 0;
    border: 0;
    background: none;
    color: var(--k-text-quiet);
    font: inherit;
    font-size: 11px;
    text-align: left;
    cursor: pointer;
  }
  .thumbnail {
    display: block;
    height: 56px;
    background: var(--k-stage);
  }
  .folded .thumbnail {
    height: 40px;
  }
  .title {
    display: block;
    overflow: hidden;
    margin-top: 2px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .chosen .thumbnail {
    box-shadow: 0 0 0 2px var(--k-bone);
  }
  .chosen {
    color: var(--k-bone);
  }
</style>
