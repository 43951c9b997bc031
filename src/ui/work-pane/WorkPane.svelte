<script lang="ts">
  import { sentenceOf } from '$core/document';
  import { opOf } from '$core/ops';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import WherePart from '../where/WherePart.svelte';
  import BakePane from './BakePane.svelte';
  import { panelOf } from './panels';
  import Parts from './Parts.svelte';
  import SourcePanel from './SourcePanel.svelte';

  let { session, bench }: { session: Session; bench: BenchState } = $props();

  const step = $derived(session.cursor.step);
  const op = $derived(step && opOf(step.op));
  const sentence = $derived(step ? sentenceOf(step) : { change: '', rest: '' });
</script>

<section class="pane" aria-label="Work: the selected step">
  {#if bench.baking}
    <BakePane {session} {bench} steps={bench.baking} />
  {:else if step === null || op === null}
    <SourcePanel {session} {bench} />
  {:else}
    {#key step.id}
      {@const Panel = panelOf(step.op)}
      <header class="pane-header">
        <span class="pane-title">Work</span>
        <span class="name" title={op.purpose}
          >{step.name ?? op.title}{#if step.name}<i>{op.title}</i>{/if}</span
        >
      </header>
      <p class="sentence" title={`${sentence.change} ${sentence.rest}`}>
        <b>{sentence.change}</b> <span class="quiet">{sentence.rest}</span>
      </p>
      {#if bench.part === 'where' && op.kind !== 'geometry'}
        <WherePart {session} {bench} {step} />
      {:else}
        <div class="scroll">
          <Panel {session} {bench} {step} />
        </div>
      {/if}
      {#if op.kind !== 'geometry'}<Parts {session} {bench} {step} />{/if}
    {/key}
  {/if}
</section>

<style>
  .name {
    overflow: hidden;
    font-weight: 600;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .name i {
    margin-left: 8px;
    color: var(--k-text-quiet);
    font-weight: 400;
    font-style: normal;
  }
  .sentence {
    /* Two lines, whatever it says: what stands below must not move under a hand. */
    display: -webkit-box;
    flex: none;
    overflow: hidden;
    box-sizing: content-box;
    height: 2lh;
    margin: 0;
    padding: 6px 12px 5px;
    -webkit-box-orient: vertical;
    -webkit-line-clamp: 2;
    line-clamp: 2;
    border-bottom: 1px solid var(--k-line);
  }
  .scroll {
    flex: 1;
    min-height: 0;
    overflow-y: auto;
    scrollbar-gutter: stable;
    scrollbar-width: thin;
    scrollbar-color: #555 transparent;
  }
  .scroll :global(.panel) {
    padding: 8px 12px 12px;
  }
</style>
