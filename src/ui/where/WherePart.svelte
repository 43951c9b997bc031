<script lang="ts">
  import { untrack } from 'svelte';
  import PaintBrush from 'carbon-icons-svelte/lib/PaintBrush.svelte';
  import Search from 'carbon-icons-svelte/lib/Search.svelte';
  import { channelOf } from '$core/colour';
  import { maskSchema, type MaskSource } from '$core/document';
  import { controlAt } from '$core/ops/controls';
  import { whyBound } from '$core/mask/shape';
  import { combinations } from '$core/mask/combinations';
  import { sourceKind, sourceKinds, type Kind } from '$core/mask/sources';
  import { stackOf } from '$core/ops/channel';
  import { told } from '../numbers';
  import PromptSelect from '../shell/PromptSelect.svelte';
  import Amount from '../work-pane/Amount.svelte';
  import type { PanelProps } from '../work-pane/panels';
  import BrushControls from './BrushControls.svelte';
  import MaskMenu from './MaskMenu.svelte';
  import TermCurve from './TermCurve.svelte';
  import TermList from './TermList.svelte';
  import TermSource from './TermSource.svelte';
  import { arrowGroup } from '../shell/arrow-group';

  let { session, bench, step }: PanelProps = $props();

  const masks = $derived(bench.masks);
  const mask = $derived(masks.mask);
  const term = $derived(masks.term);
  const place = $derived(masks.place);
  const bound = $derived(mask ? whyBound(mask) : []);
  const { geometry } = $derived(session.cursor.at(session.cursor.into));

  // What the mask covers follows everything it depends on.
  $effect(() => {
    void session.document;
    void masks.mask;
    void masks.chosen;
    void session.cursor.stepId;
    untrack(() => masks.measure());
  });
  // The mask is looked at while it is worked on.
  $effect(() =>
    untrack(() => {
      const before = bench.inTab;
      if (bench.inTab !== 'sources') bench.inTab = 'mask';
      return () => {
        bench.hand.paint(false);
        bench.masks.inOut = false;
        if (bench.inTab === 'mask' || bench.inTab === 'sources')
          bench.inTab = before === 'mask' || before === 'sources' ? 'wall' : before;
      };
    })
  );

  const [grow, blur, amount] = [['grow'], ['blur'], ['terms', 0, 'amount']].map((path) =>
    controlAt(maskSchema, path)
  );

  const title = $derived.by(() => {
    if (place.kind === 'named')
      return `Mask “${session.document.masks.find((m) => m.id === place.id)?.name ?? ''}”`;
    if (place.kind === 'entry') {
      const entry = stackOf(step)[place.index];
      return `Where ${entry ? channelOf(entry.channel).name : 'the entry'} is laid on`;
    }
    return 'Where the step acts';
  });

  /** A new term of a kind, as a person would begin with it. */
  const fresh = (kind: Kind): MaskSource | null =>
    sourceKind(kind).fresh({
      ...geometry.frame,
      channel: bench.channel,
      mask: session.document.masks.find((m) => place.kind !== 'named' || m.id !== place.id)?.id ?? null
    }) as MaskSource | null;

  function add(kind: Kind): void {
    const source = fresh(kind);
    if (!source) return;
    masks.add(source, kind === 'paint' ? { combine: 'add' } : {});
    bench.hand.paint(kind === 'paint');
    if (kind !== 'distance') return;
    bench.masks.view = 'mask';
    bench.masks.picks = true;
  }

  function paint(): void {
    bench.hand.paint(!bench.hand.painting);
    if (bench.hand.painting && !mask?.terms.some((t) => t.source.kind === 'paint')) add('paint');
  }
</script>

<section class="where" aria-label="Where">
  <header>
    <h3>{title}</h3>
    <span class="mono coverage" aria-label="Coverage"
      >{masks.coverage === null ? '…' : `${told(masks.coverage, 1)} %`}</span
    >
    <MaskMenu {session} {bench} />
  </header>
  <div class="scroll">
    {#if place.kind !== 'step'}
      <button class="tool back" onclick={() => (masks.place = { kind: 'step' })}
        >← Back to the step’s own mask</button
      >
    {/if}
    <div class="tools">
      <PromptSelect
        label="Add a term"
        items={sourceKinds.map(({ kind, title }) => ({
          ...{ id: kind, title },
          disabled: fresh(kind) === null
        }))}
        onchoose={(kind) => add(kind as Kind)}
      />
      <button
        class="tool raised"
        aria-pressed={bench.hand.painting}
        title="Paint on the picture (S)"
        onclick={paint}><PaintBrush size={16} /> Paint</button
      >
      <button
        class="tool raised"
        aria-pressed={bench.inTab === 'sources'}
        title="See every channel and distance, the best first where pins are to be told apart"
        onclick={() => (bench.inTab = bench.inTab === 'sources' ? 'mask' : 'sources')}
        ><Search size={16} /> Find</button
      >
    </div>
    {#if bench.hand.painting}<BrushControls {bench} />{/if}
    {#if !mask || mask.terms.length === 0}
      <p class="quiet">
        No term yet: the step acts everywhere. Take a channel, a distance to a colour, or paint; or let <b
          >Find</b
        >
        rank all of them by pins to <i>want</i> and to <i>avoid</i>.
      </p>
    {:else}
      <TermList {session} {bench} />
      {#if term}
        {#if masks.chosen > 0}
          <div
            class="combine"
            role="radiogroup"
            {@attach arrowGroup}
            aria-label="How the term joins those before it"
          >
            {#each combinations as { id, title, does } (id)}
              <button
                class="tool raised"
                role="radio"
                aria-checked={term.combine === id}
                title={does}
                onclick={() => masks.changeTerm('Join otherwise', (t) => (t.combine = id))}>{title}</button
              >
            {/each}
          </div>
        {/if}
        <TermSource {session} {bench} {term} />
        <TermCurve {session} {bench} {term} />
        <Amount
          {...amount}
          name="Amount of the term"
          value={term.amount / amount.worth}
          neutral={amount.usual / amount.worth}
          oninput={(v) =>
            masks.changeTerm('Amount of a term', (t) => (t.amount = v * amount.worth), 'amount')}
          onend={() => session.endGesture()}
        />
      {/if}
      <h4>The whole mask</h4>
      <Amount
        {...grow}
        name="Grow the mask"
        value={mask.grow}
        neutral={0}
        oninput={(v) => masks.change('Grow the mask', (m) => (m.grow = v), 'grow')}
        onend={() => session.endGesture()}
      />
      <Amount
        {...blur}
        name="Blur the mask"
        value={mask.blur}
        neutral={0}
        oninput={(v) => masks.change('Blur the mask', (m) => (m.blur = v), 'blur')}
        onend={() => session.endGesture()}
      />
      <button
        class="tool raised"
        aria-pressed={mask.invert}
        onclick={() => masks.change('Invert the mask', (m) => (m.invert = !m.invert))}>Invert the mask</button
      >
      <p class="quiet">
        {bound.length
          ? `Bound to this picture by ${bound.join(', ')}: on another one it lies where it lies here.`
          : 'Made of colours alone: it carries over to other pictures with the steps.'}
      </p>
    {/if}
  </div>
</section>

<style>
  .where {
    position: relative;
    display: flex;
    flex: 1;
    flex-direction: column;
    min-height: 0;
  }
  header {
    display: flex;
    flex: none;
    gap: 8px;
    align-items: center;
    height: 34px;
    padding: 0 6px 0 12px;
    border-bottom: 1px solid var(--k-line);
  }
  h3 {
    overflow: hidden;
    flex: 1;
    margin: 0;
    font-weight: 600;
    font-size: 13px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  h4 {
    margin: 12px 0 4px;
    font-weight: 600;
    font-size: 12px;
  }
  .coverage {
    color: var(--k-bone);
  }
  .scroll {
    flex: 1;
    min-height: 0;
    overflow-y: auto;
    padding: 8px 12px 12px;
    scrollbar-width: thin;
    scrollbar-color: #555 transparent;
  }
  .tools {
    display: grid;
    grid-template-columns: 1fr auto auto;
    gap: 6px;
    align-items: center;
    margin-bottom: 8px;
  }
  .tools .tool {
    height: 32px;
  }
  .back {
    margin: 0 0 6px -7px;
  }
  .combine {
    display: grid;
    grid-template-columns: repeat(3, 1fr);
    gap: 4px;
    margin: 8px 0;
  }
  p {
    margin: 6px 0;
    font-size: 12px;
  }
</style>
