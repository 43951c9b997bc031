<script lang="ts">
  import { differentSizes } from '$core/path/differing';
  import type { BenchState } from '../bench/bench.svelte';
  import { DifferenceMeasure } from '../bench/difference.svelte';
  import { told } from '../numbers';

  let { bench }: { bench: BenchState } = $props();
  const { compare } = $derived(bench);

  const measure = new DifferenceMeasure();
  const shown = $derived(bench.at(bench.outPlace));
  const other = $derived(compare.shown(compare.against));
  const refused = $derived(typeof other === 'string' ? null : differentSizes(shown.geometry, other.geometry));
  $effect(() => {
    if (compare.minus && !refused) measure.measure(shown, compare.minus);
    else measure.stop();
  });
  $effect(() => () => measure.stop());

  const measured = $derived(measure.measured);
  const figures = $derived(measured?.figures);
  const inWords = (v: number): string =>
    compare.by === 'colours' ? `ΔE ${told(100 * v, 2)}` : `${told(100 * v, 2)} %`;
  const white = $derived(
    compare.by === 'colours' ? `ΔE ${told(100 / compare.times, 1)}` : `${told(100 / compare.times, 1)} %`
  );
</script>

<p class="figures" aria-live="polite">
  {#if refused}
    {refused}
  {:else if figures?.largest === 0}
    {#if measured?.part === 1}<span>The two are the same, sample for sample.</span>{/if}
  {:else if figures}
    <span>mean <b class="mono">{inWords(figures.mean)}</b></span>
    <span>95 % up to <b class="mono">{inWords(figures.most)}</b></span>
    <span>largest <b class="mono">{inWords(figures.largest)}</b> at {figures.at.x}, {figures.at.y}</span>
    <span class="quiet">white is {white}</span>
  {:else if measured?.part === 1}
    Nothing can be compared: every sample is missing in one of the two.
  {:else}
    <span class="quiet">Measuring at full size …</span>
  {/if}
  {#if figures && measured && measured.part < 1}<span class="quiet"
      >{figures.largest === 0 ? 'no difference ' : ''}so far, {Math.round(100 * measured.part)} % of the picture</span
    >{/if}
</p>

<style>
  p {
    display: flex;
    flex: none;
    flex-wrap: wrap;
    gap: 2px 16px;
    margin: 0;
    padding: 5px 10px;
    background: var(--k-surface);
    border-top: 1px solid var(--k-line);
    font-size: 12px;
  }
  b {
    font-weight: 400;
  }
</style>
