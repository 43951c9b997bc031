<script lang="ts">
  import Link from 'carbon-icons-svelte/lib/Link.svelte';
  import Unlink from 'carbon-icons-svelte/lib/Unlink.svelte';
  import { modelOf } from '$core/colour';
  import { actsOn, type Step } from '$core/document';
  import { swatch } from '../channel-colour';
  import Amount from './Amount.svelte';
  import type { Control } from './controls';

  interface Props {
    control: Control;
    step: Step;
    name: string;
    /** One number for all channels, or one for each by its letter; in the parameter's own unit. */
    value: number | Readonly<Record<string, number>>;
    neutral: number;
    onset: (value: number | Record<string, number>, gesture?: string) => void;
    onend: () => void;
  }
  let { control, step, name, value, neutral, onset, onend }: Props = $props();

  const on = $derived(actsOn(step));
  const channels = $derived(modelOf(on.model).channels.filter((c) => on.channels.includes(c.letter)));
  const worth = $derived(control.worth ?? 1);
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
      {...control}
      label="all"
      {name}
      value={value / worth}
      neutral={neutral / worth}
      oninput={(v) => onset(v * worth, control.key)}
      {onend}
    />
  {:else}
    {#each channels as c (c.id)}
      <Amount
        {...control}
        label={c.sign}
        name={`${name} of ${c.name}`}
        value={(value[c.letter] ?? neutral) / worth}
        neutral={neutral / worth}
        colour={swatch(c.id)}
        oninput={(v) => onset({ ...value, [c.letter]: v * worth }, `${control.key} ${c.letter}`)}
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
