<script lang="ts">
  import { Toggle } from 'carbon-components-svelte';
  import { modelOf } from '$core/colour';
  import {
    arrangements,
    holdTotal,
    mix,
    mixModels,
    rowOf,
    type MixModel,
    type MixParams,
    type MixRows
  } from '$core/ops/mix';
  import type { Session } from '../bench/session.svelte';
  import MixRow from './MixRow.svelte';
  import Tabs from '../shell/Tabs.svelte';

  let { session, params }: { session: Session; params: MixParams } = $props();

  let hold = $state(false);
  const outputs = $derived(modelOf(params.model).channels);
  const sentence = $derived.by(() => {
    const text = mix.sentence(params);
    return text[0].toUpperCase() + text.slice(1);
  });
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

<Tabs title="Work" {tabs} bind:value={() => params.model, setModel}>
  <span class="quiet">Mix</span>
</Tabs>
<div class="scroll">
  <p class="sentence">
    <b>{sentence}</b> <span class="quiet">on {modelOf(params.model).title}, everywhere</span>
  </p>
  <div class="arrange" role="group" aria-label="Swap and rotate">
    {#each arrangements[params.model] as { title, sign, rows } (title)}
      <button class="tool" {title} aria-label={title} onclick={() => arrange(title, rows)}>{sign}</button>
    {/each}
  </div>
  <div class="options">
    <Toggle
      size="sm"
      labelText="Hold totals"
      hideLabel
      labelA="Hold totals"
      labelB="Hold totals"
      bind:toggled={hold}
    />
    <Toggle
      size="sm"
      labelText="Normalise"
      hideLabel
      labelA="Normalise"
      labelB="Normalise"
      toggled={params.normalize}
      on:toggle={({ detail }) => {
        if (detail.toggled !== params.normalize) {
          session.changeStep(
            'Normalise rows',
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
  .scroll {
    flex: 1;
    min-height: 0;
    overflow-y: auto;
    scrollbar-width: thin;
    scrollbar-color: #555 transparent;
  }
  .sentence {
    margin: 0;
    padding: 8px 12px 4px;
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
    gap: 4px 16px;
    padding: 0 12px 5px;
    border-bottom: 1px solid var(--k-line);
  }
  .options :global(.bx--toggle__switch),
  .options :global(.bx--toggle-input__label .bx--toggle__switch) {
    margin-top: 0;
  }
</style>
