<script lang="ts">
  import { wallModels } from '$core/colour';
  import { swatch } from '../channel-colour';
  import PictureView from '../viewer/PictureView.svelte';
  import type { Spot } from '../viewer/spot';
  import type { Shown } from '../viewer/shown';
  import type { Viewport } from '../viewer/viewport.svelte';

  interface Props {
    source: Omit<Shown, 'view'>;
    viewport: Viewport;
    /** The channel that “One” would show. */
    channel: string;
    onchoose: (channel: string) => void;
    onopen: (channel: string) => void;
    onSpot: (spot: Spot | null) => void;
  }
  let { source, viewport, channel, onchoose, onopen, onSpot }: Props = $props();
</script>

<div class="wall">
  <div class="grid">
    {#each wallModels as model (model.id)}
      <div class="model" role="group" aria-label={model.title}>
        {#each model.channels as c (c.id)}
          <button
            class="cell"
            class:chosen={channel === c.id}
            aria-pressed={channel === c.id}
            title={`${c.name}: double-click to see it large`}
            onclick={() => onchoose(c.id)}
            ondblclick={() => onopen(c.id)}
            onkeydown={(event) => {
              if (event.key === 'Enter') onopen(c.id);
            }}
          >
            <PictureView
              shown={{ ...source, view: { channel: c.id } }}
              {viewport}
              role="small"
              label={`${model.title} ${c.name}`}
              priority={4}
              {onSpot}
            />
            <span class="name">
              <span class="dot" style:background={swatch(c.id)}></span>{c.sign}
            </span>
          </button>
        {/each}
      </div>
    {/each}
  </div>
</div>

<style>
  .wall {
    flex: 1;
    min-height: 0;
    padding: 6px;
    container-type: size;
  }
  /* Narrow: two columns of five. Wide: a row for each model. */
  .grid {
    display: grid;
    grid-template-columns: 1fr 1fr;
    grid-auto-rows: 1fr;
    gap: 5px;
    height: 100%;
  }
  .model {
    display: contents;
  }
  @container (min-width: 460px) {
    .grid {
      grid-template-columns: 1fr;
    }
    .model {
      display: grid;
      grid-auto-flow: column;
      grid-auto-columns: 1fr;
      gap: 5px;
      min-height: 0;
    }
  }
  .cell {
    position: relative;
    min-width: 0;
    min-height: 0;
    padding: 0;
    border: 0;
    background: #222;
    color: inherit;
    font: inherit;
    cursor: pointer;
  }
  .cell.chosen {
    box-shadow: 0 0 0 2px var(--k-bone);
  }
  .name {
    position: absolute;
    left: 4px;
    bottom: 4px;
    display: flex;
    align-items: center;
    gap: 5px;
    padding: 1px 6px 1px 5px;
    background: rgb(20 20 20 / 82%);
    font-weight: 600;
    font-size: 12px;
    pointer-events: none;
  }
  .dot {
    width: 8px;
    height: 8px;
    border-radius: 50%;
  }
</style>
