<script lang="ts">
  import { stepsTo, whatDiffers } from '$core/document';
  import type { BenchState } from '../bench/bench.svelte';

  let { bench }: { bench: BenchState } = $props();
  const { compare } = $derived(bench);

  const steps = $derived(
    compare.pair.map((i) => {
      const picture = compare.picture(i);
      return (picture && stepsTo(picture.steps, compare.places[i].at)) ?? [];
    })
  );
  const differences = $derived(whatDiffers(steps[0], steps[1]));
  const heads = $derived(new Set(compare.pair.map((i) => JSON.stringify(compare.picture(i)?.head))).size > 1);
  const names = $derived(compare.pair.map((i) => i + 1));
</script>

<section aria-label="What differs">
  <table>
    <thead>
      <tr>
        <th scope="col">Step</th>
        <th scope="col">What</th>
        {#each compare.pair as i (i)}<th scope="col" title={compare.title(i)}
            ><b class="mono">{i + 1}</b> {compare.title(i)}</th
          >{/each}
      </tr>
    </thead>
    <tbody>
      {#if heads}
        <tr><th scope="row">Source</th><td colspan="3">They begin from other pictures.</td></tr>
      {/if}
      {#each differences as { title, in: side, sentence, values }, i (i)}
        {#if side !== 'both'}
          <tr>
            <th scope="row">{title}</th>
            <td>only in {side === 'one' ? names[0] : names[1]}</td>
            <td>{side === 'one' ? sentence : '–'}</td>
            <td>{side === 'other' ? sentence : '–'}</td>
          </tr>
        {:else}
          {#each values as { what, one, other }, v (v)}
            <tr>
              <th scope="row">{v === 0 ? title : ''}</th>
              <td>{what}</td>
              <td class="mono">{one}</td>
              <td class="mono">{other}</td>
            </tr>
          {/each}
        {/if}
      {:else}
        {#if !heads}<tr><td colspan="4">Nothing: their steps are the same.</td></tr>{/if}
      {/each}
    </tbody>
  </table>
</section>

<style>
  section {
    flex: none;
    max-height: 38%;
    overflow: auto;
    background: var(--k-surface);
    border-top: 1px solid var(--k-line);
  }
  table {
    width: 100%;
    border-collapse: collapse;
    font-size: 12px;
  }
  th,
  td {
    overflow-wrap: anywhere;
    padding: 3px 10px;
    text-align: left;
    vertical-align: top;
  }
  th {
    font-weight: 600;
  }
  thead th {
    position: sticky;
    top: 0;
    background: var(--k-surface);
    color: var(--k-text-quiet);
    font-weight: 400;
  }
  b {
    color: var(--k-bone);
    font-weight: 400;
  }
  tbody tr:nth-child(odd) {
    background: rgb(255 255 255 / 3%);
  }
</style>
