<script lang="ts">
  import { paramsOf } from '$core/ops/op';
  import { RadioButton, RadioButtonGroup, Toggle } from 'carbon-components-svelte';
  import { modelOf } from '$core/colour';
  import { type WeighParams, weigh as op } from '$core/ops/weigh';
  import { swatch } from '../channel-colour';
  import StepAmount from './StepAmount.svelte';
  import type { PanelProps } from './panels';

  let { session, step }: PanelProps = $props();
  const params = $derived(paramsOf(op, step));
  const LETTERS = ['r', 'g', 'b'] as const;
</script>

<div class="panel">
  <RadioButtonGroup
    legendText="Change"
    selected={params.target}
    on:change={({ detail }) => {
      const target = detail as WeighParams['target'];
      if (target && target !== params.target)
        session.changeParams(op, `Weigh ${target}`, (p) => (p.target = target));
    }}
  >
    <RadioButton value="saturation" labelText="Saturation" />
    <RadioButton value="brightness" labelText="Brightness" />
  </RadioButtonGroup>
  <h3>By the share of</h3>
  {#each modelOf('rgb').channels as c, i (c.id)}
    <StepAmount
      {session}
      {step}
      {op}
      path={['weights', LETTERS[i]]}
      label={c.name}
      name={`Share of ${c.name}`}
      colour={swatch(c.id)}
    />
  {/each}
  <Toggle
    size="sm"
    hideLabel
    labelText="Keep greys as they are"
    labelA="Keep greys as they are"
    labelB="Keep greys as they are"
    toggled={params.normalize}
    on:toggle={({ detail }) => {
      if (detail.toggled !== params.normalize)
        session.changeParams(op, 'Keep greys', (p) => (p.normalize = detail.toggled));
    }}
  />
  <p class="quiet">A colour gains as much as it holds of each primary’s light.</p>
</div>

<style>
  h3 {
    margin: 10px 0 2px;
    font-weight: 600;
    font-size: 12px;
  }
  p {
    margin: 6px 0 0;
    font-size: 12px;
  }
</style>
