<script lang="ts">
  import StepAmount from './StepAmount.svelte';
  import { paramsOf } from '$core/ops/op';
  import { RadioButton, RadioButtonGroup } from 'carbon-components-svelte';
  import Add from 'carbon-icons-svelte/lib/Add.svelte';
  import TrashCan from 'carbon-icons-svelte/lib/TrashCan.svelte';
  import { firstStops } from '../bench/steps';
  import { colourAt, type TintStop, tint as op } from '$core/ops/tint';
  import Amount from './Amount.svelte';
  import type { PanelProps } from './panels';

  let { session, step }: PanelProps = $props();
  const params = $derived(paramsOf(op, step));
  const MOST_STOPS = 16;

  const hex = (rgb: readonly number[]): string =>
    `#${rgb
      .map((v) =>
        Math.round(255 * v)
          .toString(16)
          .padStart(2, '0')
      )
      .join('')}`;
  const colour = (text: string): [number, number, number] =>
    [1, 3, 5].map((i) => Math.round((parseInt(text.slice(i, i + 2), 16) / 255) * 1e4) / 1e4) as [
      number,
      number,
      number
    ];
  const gradient = $derived(
    params.stops.length
      ? `linear-gradient(to right, ${Array.from({ length: 33 }, (_, i) => `${hex(colourAt(params.stops, i / 32))} ${(100 * i) / 32}%`).join(', ')})`
      : ''
  );
  function setStops(label: string, next: readonly TintStop[], gesture?: string): void {
    const sorted = [...next]
      .sort((a, b) => a.at - b.at)
      .map(({ at, rgb }) => ({ at, rgb: [...rgb] as [number, number, number] }));
    session.changeParams(op, label, (p) => (p.stops = sorted), gesture);
  }
</script>

<div class="panel">
  <RadioButtonGroup
    legendText="Colour the greys"
    selected={params.stops.length ? 'gradient' : 'hue'}
    on:change={({ detail }) => {
      if ((detail === 'gradient') !== params.stops.length > 0)
        setStops('Tint otherwise', detail === 'gradient' ? firstStops : []);
    }}
  >
    <RadioButton value="hue" labelText="By one hue" />
    <RadioButton value="gradient" labelText="By a gradient" />
  </RadioButtonGroup>
  <div class="space"></div>
  {#if params.stops.length === 0}
    <StepAmount {session} {step} {op} path={['hue']} name="Tint hue" />
    <StepAmount {session} {step} {op} path={['saturation']} name="Tint saturation" />
    <p class="quiet">
      Lightness stays. To keep the picture’s own colours beneath, fade it or limit it under Blend and Limits.
    </p>
  {:else}
    <div class="gradient" style:background={gradient}></div>
    {#each params.stops as stop, i (i)}
      <div class="stop">
        <input
          type="color"
          aria-label={`Colour ${i + 1}`}
          value={hex(stop.rgb)}
          oninput={(event) =>
            setStops(
              'Colour of a tone',
              params.stops.map((s, k) => (k === i ? { ...s, rgb: colour(event.currentTarget.value) } : s)),
              `stop ${i}`
            )}
          onchange={() => session.endGesture()}
        />
        <Amount
          label="tone"
          name={`Tone of colour ${i + 1}`}
          value={100 * stop.at}
          neutral={100 * stop.at}
          min={0}
          max={100}
          oninput={(v) =>
            setStops(
              'Place of a colour',
              params.stops.map((s, k) =>
                k === i
                  ? {
                      ...s,
                      at: Math.min(
                        params.stops[k + 1]?.at ?? 1,
                        Math.max(params.stops[k - 1]?.at ?? 0, v / 100)
                      )
                    }
                  : s
              ),
              `place ${i}`
            )}
          onend={() => session.endGesture()}
        />
        <button
          class="tool"
          aria-label={`Remove colour ${i + 1}`}
          title="Remove"
          disabled={params.stops.length === 1}
          onclick={() =>
            setStops(
              'Remove a colour',
              params.stops.filter((_, k) => k !== i)
            )}><TrashCan size={16} /></button
        >
      </div>
    {/each}
    <button
      class="tool raised"
      disabled={params.stops.length >= MOST_STOPS}
      onclick={() => {
        const at = (params.stops[0].at + (params.stops[1]?.at ?? 1)) / 2;
        setStops('Add a colour', [
          ...params.stops,
          { at, rgb: colourAt(params.stops, at) as [number, number, number] }
        ]);
      }}><Add size={16} /> Colour</button
    >
  {/if}
</div>

<style>
  .space {
    height: 8px;
  }
  .gradient {
    height: 22px;
    margin-bottom: 8px;
  }
  .stop {
    display: grid;
    grid-template-columns: 30px 1fr 28px;
    gap: 8px;
    align-items: center;
    margin-bottom: 3px;
  }
  .stop :global(.amount) {
    grid-template-columns: 34px 1fr 58px;
  }
  input[type='color'] {
    width: 30px;
    height: 24px;
    padding: 0;
    border: 0;
    background: none;
  }
  p {
    font-size: 12px;
  }
</style>
