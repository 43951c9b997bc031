<script lang="ts">
  import type { Channel } from '$core/colour';
  import { swatch } from '../channel-colour';
  import { arrowGroup } from '../shell/arrow-group';

  interface Props {
    channels: readonly Channel[];
    /** Offers “all” besides. */
    all: boolean;
    /** Letters that hold something of their own. */
    set: readonly string[];
    value: string;
    label: string;
  }
  let { channels, all, set, value = $bindable(), label }: Props = $props();

  const tabs = $derived([
    ...(all ? [{ letter: 'all', sign: 'all', id: '', name: 'all channels' }] : []),
    ...channels
  ]);
</script>

<div class="tabs" role="radiogroup" {@attach arrowGroup} aria-label={label}>
  {#each tabs as { letter, sign, id, name } (letter)}
    <button
      class="tool"
      role="radio"
      aria-checked={value === letter}
      aria-label={name}
      title={name}
      onclick={() => (value = letter)}
    >
      {#if id}<span class="dot" style:background={swatch(id)}></span>{/if}
      {sign}{#if set.includes(letter)}<b aria-label="changed">·</b>{/if}
    </button>
  {/each}
</div>

<style>
  .tabs {
    display: flex;
    gap: 2px;
    margin-bottom: 6px;
  }
  .tool {
    height: 26px;
    min-width: 34px;
  }
  [aria-checked='true'] {
    background: #3a3a3a;
    color: var(--k-bone);
  }
  .dot {
    width: 8px;
    height: 8px;
    border-radius: 50%;
  }
  b {
    color: var(--k-bone);
    font-size: 18px;
    line-height: 10px;
  }
</style>
