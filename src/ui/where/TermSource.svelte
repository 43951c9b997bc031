<script lang="ts">
  import type { MaskSource, MaskTerm } from '$core/document';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import { sourceKind } from '$core/mask/sources';
  import Switch from '../work-pane/Switch.svelte';
  import { controlsFor } from './sources/controls';

  let { session, bench, term }: { session: Session; bench: BenchState; term: MaskTerm } = $props();

  const Controls = $derived(controlsFor(term.source.kind));
  /** Where nothing linear is seen there is nothing to stretch. */
  const sees = $derived(
    sourceKind(term.source.kind).sees &&
      (term.stretched ||
        session.cursor.encoding === 'linear' ||
        sourceKind(term.source.kind).uses?.(term.source))
  );
  const set = (label: string, change: (source: MaskSource) => void, gesture?: string): void =>
    bench.masks.changeTerm(label, (t) => change(t.source), gesture);
</script>

<div class="source">
  <Controls {session} {bench} {term} source={term.source} {set} />
  {#if sees}
    <div class="seen">
      <Switch
        label="See a linear picture stretched"
        on={term.stretched ?? false}
        onchange={(on) =>
          bench.masks.changeTerm(on ? 'See it stretched' : 'See it as it is', (t) => {
            if (on) t.stretched = true;
            else delete t.stretched;
          })}
      />
    </div>
  {/if}
</div>

<style>
  .source {
    margin: 8px 0;
  }
  .seen {
    margin: 10px 0 12px;
  }
  .source :global(.row) {
    display: flex;
    gap: 6px;
    align-items: center;
    margin-bottom: 6px;
  }
</style>
