<script lang="ts">
  import type { MaskSource, MaskTerm } from '$core/document';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import { controlsFor } from './sources/controls';

  let { session, bench, term }: { session: Session; bench: BenchState; term: MaskTerm } = $props();

  const Controls = $derived(controlsFor(term.source.kind));
  const set = (label: string, change: (source: MaskSource) => void, gesture?: string): void =>
    bench.masks.changeTerm(label, (t) => change(t.source), gesture);
</script>

<div class="source">
  <Controls {session} {bench} {term} source={term.source} {set} />
</div>

<style>
  .source {
    margin: 8px 0;
  }
  .source :global(.row) {
    display: flex;
    gap: 6px;
    align-items: center;
    margin-bottom: 6px;
  }
</style>
