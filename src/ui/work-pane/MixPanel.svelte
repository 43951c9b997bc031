<script lang="ts">
  import { paramsOf } from '$core/ops/op';
  import { Newest } from '../bench/newest';
  import { Toggle } from 'carbon-components-svelte';
  import { modelOf } from '$core/colour';
  import {
    arrangements,
    holdTotal,
    mixModels,
    rowOf,
    type MixModel,
    type MixParams,
    type MixRows,
    mix as op
  } from '$core/ops/mix';
  import { proposeMix, type MixProposal } from '$core/measure/propose';
  import { mainColours, movedBy, type Moved } from '$core/measure/main-colours';
  import { dropPin } from '../bench/pins';
  import MixProposed from './MixProposed.svelte';
  import MixRow from './MixRow.svelte';
  import Tabs from '../shell/Tabs.svelte';
  import type { PanelProps } from './panels';

  let { session, bench, step }: PanelProps = $props();
  const params = $derived(paramsOf(op, step));

  let hold = $state(false);
  const outputs = $derived(modelOf(params.model).channels);
  const tabs = mixModels.map((id) => ({ id, title: modelOf(id).title }));
  /** The recipe sees the row as it was when the gesture began: a held total is shared over that one. */
  function set(out: string, input: string, value: number): void {
    const name = outputs.find((c) => c.letter === out)?.name ?? out;
    session.changeStep(
      `Mix ${name}`,
      (step) => {
        const p = paramsOf(op, step);
        const row = rowOf(p, out);
        p.rows[out] = hold ? holdTotal(row, input, value) : { ...row, [input]: value };
      },
      `mix ${out} ${input}`
    );
  }

  const canSolve = $derived(session.cursor.pins.some((p) => p.role === 'neutral'));
  let proposal = $state.raw<MixProposal | null>(null);
  let moved = $state.raw<readonly Moved[]>([]);

  /** Finds the rows from the pins and shows them on the picture, until they are taken or dismissed. */
  const newest = new Newest('the mix from the pins');
  const propose = (): void => newest.ask(findProposal);

  async function findProposal(): Promise<void> {
    const readings = await bench.readPins(['neutral', 'keep']);
    const within = params.model === 'lab' ? 'lab' : params.light;
    const found = proposeMix(readings, hold, within, session.cursor.encoding);
    proposal = found;
    if (!found) return;
    bench.proposal = {
      ...step,
      params: { ...params, rows: found.rows, normalize: false } satisfies MixParams
    };
    const { encoding } = session.cursor;
    moved = movedBy(mainColours(await bench.readSpread(), encoding), found.apply, encoding);
  }

  function keep(colour: Moved): void {
    dropPin(session, { onFrame: colour }, 'keep');
    propose();
  }

  function dismiss(): void {
    proposal = null;
    moved = [];
    bench.proposal = null;
  }

  function take(): void {
    const found = proposal;
    dismiss();
    if (!found) return;
    session.changeStep('Mix solved from pins', (draft) => {
      const p = paramsOf(op, draft);
      p.rows = structuredClone(found.rows);
      p.normalize = false;
    });
  }
  $effect(() => dismiss);

  function reset(out: string): void {
    session.changeParams(op, 'Reset a row', (p) => delete p.rows[out]);
  }

  function arrange(title: string, rows: MixRows): void {
    session.changeParams(op, title, (p) => (p.rows = structuredClone(rows)));
  }

  function setModel(model: MixModel): void {
    if (model === params.model) return;
    session.changeStep(`Mix in ${modelOf(model).title}`, (step) => {
      const p = paramsOf(op, step);
      p.kept[p.model] = p.rows;
      p.rows = p.kept[model] ?? {};
      delete p.kept[model];
      p.model = model;
      if (step.on) delete step.on;
    });
  }
</script>

<div class="models">
  <Tabs
    title=""
    label="Model of the mix"
    panel="mix-panel"
    {tabs}
    bind:value={() => params.model, setModel}
  />
</div>
<div class="arrange" role="group" aria-label="Swap and rotate">
  {#each arrangements[params.model] as { title, sign, rows } (title)}
    <button class="tool" {title} aria-label={title} onclick={() => arrange(title, rows)}>{sign}</button>
  {/each}
</div>
<div class="options">
  <Toggle
    size="sm"
    labelText="Keep totals"
    hideLabel
    labelA="Keep totals"
    labelB="Keep totals"
    bind:toggled={hold}
  />
  <Toggle
    size="sm"
    labelText="Scale to 100 %"
    hideLabel
    labelA="Scale to 100 %"
    labelB="Scale to 100 %"
    toggled={params.normalize}
    on:toggle={({ detail }) => {
      if (detail.toggled !== params.normalize) {
        session.changeParams(op, 'Scale rows to 100 %', (p) => (p.normalize = detail.toggled));
      }
    }}
  />
  {#if params.model !== 'lab'}
    <Toggle
      size="sm"
      labelText="Linear light"
      hideLabel
      labelA="Linear light"
      labelB="Linear light"
      toggled={params.light === 'linear'}
      on:toggle={({ detail }) => {
        const light = detail.toggled ? 'linear' : 'coded';
        if (light !== params.light) {
          session.changeParams(op, 'Mix in other light', (p) => (p.light = light));
        }
      }}
    />
  {/if}
</div>
{#if params.model !== 'cmyk'}
  <div class="solve">
    <button
      class="tool raised"
      aria-pressed={proposal !== null}
      disabled={!canSolve}
      title={canSolve
        ? 'Find the rows that make the neutral pins neutral and move the kept ones least'
        : 'Needs a pin of role neutral: drop one with P'}
      onclick={() => (proposal ? dismiss() : void propose())}>Solve from pins</button
    >
    {#if !canSolve}<span class="quiet">needs a <i>neutral</i> pin</span>{/if}
  </div>
{/if}
{#if proposal}
  <MixProposed
    {proposal}
    {outputs}
    encoding={session.cursor.encoding}
    {moved}
    ontake={take}
    ondismiss={dismiss}
    onkeep={keep}
  />
{/if}
<div role="tabpanel" id="mix-panel" aria-labelledby={`mix-panel-${params.model}`}>
  {#each outputs as { letter } (letter)}
    <MixRow
      {params}
      out={letter}
      onset={(input, value) => set(letter, input, value)}
      onreset={() => reset(letter)}
      onend={() => session.endGesture()}
    />
  {/each}
</div>

<style>
  .models :global(header) {
    height: 30px;
  }
  .models :global(.pane-title) {
    display: none;
  }
  .solve {
    display: flex;
    align-items: center;
    gap: 10px;
    padding: 6px 12px;
    border-bottom: 1px solid var(--k-line);
    font-size: 12px;
  }
  .arrange {
    display: flex;
    gap: 3px;
    padding: 2px 12px 5px;
  }
  /* As wide as its words, all in one row. */
  .arrange .tool {
    flex: 1 1 auto;
    min-width: 0;
    height: 26px;
    padding: 0 3px;
    white-space: nowrap;
    letter-spacing: -0.02em;
    background: var(--k-raised);
    font-size: 12px;
  }
  .options {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 0;
    padding: 0 12px 5px;
    border-bottom: 1px solid var(--k-line);
  }
  /* As wide as their words are; one that has no room goes to the next row. */
  .options > :global(*) {
    flex: 0 0 104px;
  }
  .options > :global(:nth-child(2)) {
    flex-basis: 124px;
  }
  .options :global(.bx--toggle__text--off),
  .options :global(.bx--toggle__text--on) {
    font-size: 11.5px;
  }
  .options :global(.bx--toggle__switch),
  .options :global(.bx--toggle-input__label .bx--toggle__switch) {
    margin-top: 0;
  }
</style>
