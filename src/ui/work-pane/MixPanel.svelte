<script lang="ts">
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
    type MixRows
  } from '$core/ops/mix';
  import { proposeMix, type MixProposal } from '$core/measure/propose';
  import { told } from '../numbers';
  import MixRow from './MixRow.svelte';
  import Tabs from '../shell/Tabs.svelte';
  import type { PanelProps } from './panels';

  let { session, bench, step }: PanelProps = $props();
  const params = $derived(step.params as MixParams);

  let hold = $state(false);
  const outputs = $derived(modelOf(params.model).channels);
  const tabs = mixModels.map((id) => ({ id, title: modelOf(id).title }));
  /** The recipe sees the row as it was when the gesture began: a held total is shared over that one. */
  function set(out: string, input: string, value: number): void {
    const name = outputs.find((c) => c.letter === out)?.name ?? out;
    session.changeStep(
      `Mix ${name}`,
      (step) => {
        const p = step.params as MixParams;
        const row = rowOf(p, out);
        p.rows[out] = hold ? holdTotal(row, input, value) : { ...row, [input]: value };
      },
      `mix ${out} ${input}`
    );
  }

  const canSolve = $derived(session.document.pins.some((p) => p.role === 'neutral'));
  let proposal = $state.raw<MixProposal | null>(null);

  /** Finds the rows from the pins and shows them on the picture, until they are taken or dismissed. */
  const newest = new Newest('the mix from the pins');
  const propose = (): void => newest.ask(findProposal);

  async function findProposal(): Promise<void> {
    const { pins } = session.document;
    const values = await bench.readInput(pins.map(({ x, y, size }) => ({ x: x + 0.5, y: y + 0.5, size })));
    const readings = pins.flatMap((pin, i) => {
      const rgb = values[i];
      return rgb ? [{ ...pin, rgb: [rgb[0], rgb[1], rgb[2]] as const }] : [];
    });
    proposal = proposeMix(readings, hold, params.light);
    if (proposal) {
      const proposed: MixParams = { ...params, rows: proposal.rows, normalize: false };
      bench.proposal = { ...step, params: proposed };
    }
  }

  function dismiss(): void {
    proposal = null;
    bench.proposal = null;
  }

  function take(): void {
    const found = proposal;
    dismiss();
    if (!found) return;
    session.changeStep('Mix solved from pins', (draft) => {
      const p = draft.params as MixParams;
      p.rows = structuredClone(found.rows);
      p.normalize = false;
    });
  }
  $effect(() => dismiss);

  function reset(out: string): void {
    session.changeStep('Reset a row', (step) => delete (step.params as MixParams).rows[out]);
  }

  function arrange(title: string, rows: MixRows): void {
    session.changeStep(title, (step) => ((step.params as MixParams).rows = structuredClone(rows)));
  }

  function setModel(model: MixModel): void {
    if (model === params.model) return;
    session.changeStep(`Mix in ${modelOf(model).title}`, (step) => {
      const p = step.params as MixParams;
      p.kept[p.model] = p.rows;
      p.rows = p.kept[model] ?? {};
      delete p.kept[model];
      p.model = model;
      if (step.on) delete step.on;
    });
  }
</script>

<div class="models">
  <Tabs title="" label="Model of the mix" {tabs} bind:value={() => params.model, setModel} />
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
        session.changeStep(
          'Scale rows to 100 %',
          (step) => ((step.params as MixParams).normalize = detail.toggled)
        );
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
          session.changeStep('Mix in other light', (step) => ((step.params as MixParams).light = light));
        }
      }}
    />
  {/if}
</div>
{#if params.model === 'rgb'}
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
  <div class="proposal" role="region" aria-label="Proposed mix">
    <table class="mono">
      <thead><tr><th></th><th>R</th><th>G</th><th>B</th><th>total</th></tr></thead>
      <tbody>
        {#each outputs as c (c.id)}
          {@const row = proposal.rows[c.letter]}
          <tr>
            <th>{c.sign}</th>
            {#each outputs as input (input.id)}<td>{told(100 * row[input.letter], 1)}</td>{/each}
            <td>{told(100 * (row['r'] + row['g'] + row['b']), 1)}</td>
          </tr>
        {/each}
      </tbody>
    </table>
    <ul>
      {#each proposal.residuals as { id, name, role, before, after } (id)}
        <li>
          <span>{name}</span>
          {#if role === 'neutral'}<span class="mono"
              >from neutral ΔE {before.toFixed(1)} → {after.toFixed(1)}</span
            >
          {:else}<span class="mono">moved by ΔE {after.toFixed(1)}</span>{/if}
        </li>
      {/each}
    </ul>
    <div class="row">
      <button class="tool raised" onclick={take}>Take</button>
      <button class="tool raised" onclick={dismiss}>Dismiss</button>
    </div>
  </div>
{/if}
{#each outputs as { letter } (letter)}
  <MixRow
    {params}
    out={letter}
    onset={(input, value) => set(letter, input, value)}
    onreset={() => reset(letter)}
    onend={() => session.endGesture()}
  />
{/each}

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
  .proposal {
    padding: 8px 12px;
    background: #242320;
    border-bottom: 1px solid var(--k-line);
    font-size: 12px;
  }
  table {
    width: 100%;
  }
  th,
  td {
    padding: 1px 0;
    font-weight: 400;
    text-align: right;
  }
  th:first-child {
    text-align: left;
  }
  ul {
    margin: 6px 0;
    padding: 0;
    list-style: none;
  }
  li {
    display: flex;
    justify-content: space-between;
    gap: 8px;
  }
  .row {
    display: flex;
    gap: 6px;
  }
  .arrange {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    padding: 2px 12px 5px;
  }
  .arrange .tool {
    height: 26px;
    padding: 0 7px;
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
