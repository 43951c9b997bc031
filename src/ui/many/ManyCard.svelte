<script lang="ts">
  import { bytesTold } from '../numbers';
  import type { Item } from './many.svelte';

  interface Props {
    item: Item;
    /** Opens what was made as a document. */
    onopen: () => void;
  }
  let { item, onopen }: Props = $props();

  const told = $derived(
    {
      waiting: 'waiting',
      working: 'being made …',
      done: `${item.output}, ${bytesTold(item.bytes ?? 0)}`,
      failed: item.problem
    }[item.state]
  );
</script>

<li class={item.state} aria-label={item.name}>
  <div class="pictures">
    {#if item.small}
      <img loading="lazy" src={item.small.before} alt={`${item.name} as it came`} />
      <img loading="lazy" src={item.small.after} alt={`${item.name} as it was made`} />
    {:else}<span class="none"></span><span class="none"></span>{/if}
  </div>
  <span class="name" title={item.name}>{item.name}</span>
  <span class="told" title={told}>{told}</span>
  {#each item.notices as notice (notice)}<span class="notice">{notice}</span>{/each}
  {#if item.state === 'done'}
    <button class="tool raised open" onclick={onopen} title="What was made becomes a document">Open</button>
  {/if}
</li>

<style>
  li {
    position: relative;
    display: flex;
    flex-direction: column;
    background: var(--k-raised);
    break-inside: avoid;
    /* There may be thousands: what is out of sight costs nothing. */
    content-visibility: auto;
    contain-intrinsic-size: auto 156px;
  }
  .pictures {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 2px;
    aspect-ratio: 8 / 3;
    background: var(--k-stage);
  }
  .pictures > * {
    display: block;
    width: 100%;
    height: 100%;
    min-height: 0;
    object-fit: contain;
  }
  .none {
    background: var(--k-surface);
  }
  .working .none {
    background: var(--k-line);
  }
  .name {
    overflow: hidden;
    padding: 6px 8px 0;
    font-weight: 600;
    font-size: 13px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .told,
  .notice {
    padding: 2px 8px 0;
    color: var(--k-text-quiet);
    font-size: 12px;
  }
  .told {
    overflow: hidden;
    padding-bottom: 6px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .failed .told {
    color: var(--k-warn);
    white-space: normal;
  }
  .open {
    position: absolute;
    right: 4px;
    bottom: 6px;
    opacity: 0;
  }
  li:hover .open,
  .open:focus-visible {
    opacity: 1;
  }
  @media print {
    li {
      content-visibility: visible;
      border: 0;
      background: none;
      color: #000;
    }
    .pictures {
      background: none;
    }
    .told,
    .notice {
      color: #333;
    }
    .open {
      display: none;
    }
  }
</style>
