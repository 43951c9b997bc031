<script lang="ts">
  import type { Histogram } from '$core/measure/histogram';
  import { tonePath } from './tones';

  interface Props {
    /** Histograms before and after the step. */
    pair: readonly [Histogram, Histogram] | undefined;
    width: number;
    height: number;
    colour: string;
  }
  let { pair, width, height, colour }: Props = $props();
</script>

{#if pair}
  <polygon points={tonePath(pair[0], width, height, true)} fill="#4d4d4d" />
  <polyline points={tonePath(pair[1], width, height, false)} fill="none" stroke={colour} stroke-width="1.2" />
{/if}
