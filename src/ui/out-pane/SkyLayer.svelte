<script lang="ts">
  import type { SkyBox } from '$core/measure/sky-model';
  import type { BenchState } from '../bench/bench.svelte';
  import { onView } from '../viewer/overlay';

  let { bench, boxes }: { bench: BenchState; boxes: readonly SkyBox[] } = $props();
  const { viewport } = $derived(bench);

  /** One path for those that count and one for those that do not: there may be thousands. */
  const pathOf = (used: boolean): string =>
    boxes
      .filter((box) => box.used === used)
      .map(({ x, y, size }) => {
        const side = (0.5 * size * viewport.placement.zoom) / window.devicePixelRatio;
        const at = onView(viewport.placement, viewport.view, { x, y });
        return `M${at.x - side / 2},${at.y - side / 2}h${side}v${side}h${-side}z`;
      })
      .join('');
</script>

<svg aria-hidden="true">
  <path class="used" d={pathOf(true)} />
  <path d={pathOf(false)} />
</svg>

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
    stroke: rgb(255 255 255 / 25%);
    stroke-dasharray: 2 2;
  }
  .used {
    stroke: rgb(232 221 190 / 75%);
    stroke-dasharray: none;
  }
</style>
