<script lang="ts">
  import Link from 'carbon-icons-svelte/lib/Link.svelte';
  import Unlink from 'carbon-icons-svelte/lib/Unlink.svelte';
  import { modelOf, type Channel } from '$core/colour';
  import { actsOn, type Step } from '$core/document';
  import type { Control, Value } from '$core/ops/controls';
  import { swatch } from '../channel-colour';
  import Amount from './Amount.svelte';

  interface Props {
    control: Control;
    step: Step;
    name: string;
    /** One number for all channels, or one for each by its letter; in the parameter's own unit. */
    value: Value;
    neutral: number;
    onset: (value: Value, gesture?: string) => void;
    onend: () => void;
  }
  let { control, step, name, value, neutral, onset, onend }: Props = $props();

  const on = $derived(actsOn(step));
  const channels = $derived(modelOf(on.model).channels.filter((c) => on.channels.includes(c.letter)));
  /** The control in the unit that a channel is read out in: a part of LAB is told in LAB's own units, not in per cent of them. */
  function inUnitOf(channel: Channel | undefined): Control {
    const { worth } = control;
    if (on.model !== 'lab' || worth === 1 || control.times || !channel) return control;
    const times = worth * channel.readout.scale;
    const end = (v: number): number => Math.round(v * times);
    return {
      ...{ ...control, unit: '', worth: worth / times },
      ...{ min: end(control.min), max: end(control.max) },
      ...{ least: end(control.least), most: end(control.most) }
    };
  }
  /** One number for all has a unit where they share one. */
  const shared = $derived(
    inUnitOf(channels.every((c) => c.readout.scale === channels[0].readout.scale) ? channels[0] : undefined)
  );
  const linked = $derived(typeof value === 'number');

  function toggle(): void {
    if (typeof value === 'number') {
      const one = value;
      onset(Object.fromEntries(channels.map((c) => [c.letter, one])));
    } else onset(value[channels[0]?.letter ?? ''] ?? neutral);
  }
</script>

<div class="each">
  <header>
    <span>{control.label}</span>
    <button
      class="tool"
      aria-pressed={linked}
      title={linked
        ? 'One number for all channels; press for one each'
        : 'One number for each channel; press for one'}
      onclick={toggle}
    >
      {#if linked}<Link size={16} /> One for all{:else}<Unlink size={16} /> One for each{/if}
    </button>
  </header>
  {#if typeof value === 'number'}
    <Amount
      {...shared}
      label="all"
      {name}
      value={value / shared.worth}
      neutral={neutral / shared.worth}
      oninput={(v) => onset(v * shared.worth, control.key)}
      {onend}
    />
  {:else}
    {#each channels as c (c.id)}
      {@const own = inUnitOf(c)}
      <Amount
        {...own}
        label={c.sign}
        name={`${name} of ${c.name}`}
        value={(value[c.letter] ?? neutral) / own.worth}
        neutral={neutral / own.worth}
        colour={swatch(c.id)}
        oninput={(v) => onset({ ...value, [c.letter]: v * own.worth }, `${control.key} ${c.letter}`)}
        {onend}
      />
    {/each}
  {/if}
</div>

<style>
  header {
    display: flex;
    align-items: center;
    justify-content: space-between;
    height: 28px;
  }
  header .tool {
    font-size: 12px;
  }
</style>
