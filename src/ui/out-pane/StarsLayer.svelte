<script lang="ts">
  import type { BenchState } from '../bench/bench.svelte';
  import type { Rings } from '../bench/stars-apart';
  import { onView } from '../viewer/overlay';

  let { bench, rings }: { bench: BenchState; rings: Rings } = $props();
  const { viewport } = $derived(bench);

  /** Smaller they could not be seen. */
  const LEAST = 3;
  /** One path: there may be thousands. */
  const path = $derived.by(() => {
    const scale = viewport.placement.zoom / window.devicePixelRatio;
    return rings.stars
      .map(({ x, y, radius }) => {
        const r = Math.max(LEAST, (radius + rings.grow) * scale);
        const at = onView(viewport.placement, viewport.view, { x, y });
        return `M${at.x - r},${at.y}a${r},${r} 0 1 0 ${2 * r},0a${r},${r} 0 1 0 ${-2 * r},0`;
      })
      .join('');
  });
</script>

<svg aria-hidden="true"><path d={path} /></svg>

<style>
  svg {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    pointer-events: none;
  }
  path {
    fill: none;
    stroke: rgb(232 221 190 / 70%);
  }
</style>
