<script lang="ts">
  import Reset from 'carbon-icons-svelte/lib/Reset.svelte';
  import type { MaskTerm } from '$core/document';
  import type { CurvePoint } from '$core/curve';
  import { curvePoints } from '$core/mask/prepare';
  import { equalised, levelled, stretched } from '$core/mask/shape';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import CurveGraph from '../graph/CurveGraph.svelte';

  let { session, bench, term }: { session: Session; bench: BenchState; term: MaskTerm } = $props();

  const masks = $derived(bench.masks);
  const points = $derived(curvePoints(term));
  const falls = $derived(points[0][1] > points[points.length - 1][1]);
  const pair = $derived(masks.histogram ? ([masks.histogram, masks.histogram] as const) : undefined);
  let at = $state(0);

  function set(next: readonly CurvePoint[], label: string, gesture?: string): void {
    masks.changeTerm(
      label,
      (t) => (t.curve = next.map(([x, y]) => [x, y])),
      gesture && `mask curve ${gesture}`
    );
  }
  const HARDER = 0.7;
</script>

<CurveGraph
  label="Curve of the term"
  {points}
  bind:at={() => Math.min(at, points.length - 1), (v) => (at = v)}
  {pair}
  colour="#7a7a7a"
  height={104}
  told={(v) => `${Math.round(100 * v)} %`}
  onchange={set}
  onend={() => session.endGesture()}
/>
<div class="row">
  <button class="tool raised" onclick={() => set(stretched(points, HARDER), 'Harder transition')}
    >Harder</button
  >
  <button class="tool raised" onclick={() => set(stretched(points, 1 / HARDER), 'Softer transition')}
    >Softer</button
  >
  <button
    class="tool raised"
    aria-pressed={term.invert}
    onclick={() => masks.changeTerm('Invert a term', (t) => (t.invert = !t.invert))}>Invert</button
  >
  <button
    class="tool raised"
    disabled={!masks.histogram}
    title="From its darkest to its lightest value"
    onclick={() => set(levelled(masks.histogram!, falls), 'Level a term')}>Level</button
  >
  <button
    class="tool raised"
    disabled={!masks.histogram}
    title="Every value gets an equal share"
    onclick={() => set(equalised(masks.histogram!, falls), 'Equalise a term')}>Equalise</button
  >
  <button
    class="tool raised"
    disabled={!term.curve}
    title="The source as it stands"
    aria-label="Reset the curve"
    onclick={() => masks.changeTerm('Reset a curve', (t) => delete t.curve)}><Reset size={16} /></button
  >
</div>

<style>
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    margin: 4px 0 8px;
  }
  .row .tool {
    padding: 0 5px;
  }
</style>
