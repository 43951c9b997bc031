<script lang="ts">
  import Close from 'carbon-icons-svelte/lib/Close.svelte';
  import { channelOf, channels } from '$core/colour';
  import { shortName, swatch } from '../../channel-colour';
  import PromptSelect from '../../shell/PromptSelect.svelte';
  import Amount from '../../work-pane/Amount.svelte';
  import type { SourceProps } from './controls';

  let { source, set, session }: SourceProps<'mix'> = $props();

  const free = $derived(channels.filter((c) => !(c.id in source.weights)));
</script>

{#each Object.entries(source.weights) as [id, w] (id)}
  <div class="weight">
    <Amount
      label={shortName(id)}
      name={`Mask from ${channelOf(id).name}`}
      value={100 * (w ?? 0)}
      neutral={0}
      least={-5000}
      most={5000}
      colour={swatch(id)}
      oninput={(v) => set('Mix of a mask', (s) => (s.weights[id] = v / 100), `mix ${id}`)}
      onend={() => session.endGesture()}
    />
    <button
      class="tool"
      aria-label={`Leave out ${channelOf(id).name}`}
      onclick={() => set('Leave a channel out', (s) => delete s.weights[id])}><Close size={16} /></button
    >
  </div>
{/each}
<Amount
  label="constant"
  name="Constant of the mix"
  value={100 * source.constant}
  neutral={0}
  least={-5000}
  most={5000}
  oninput={(v) => set('Constant', (s) => (s.constant = v / 100), 'mix constant')}
  onend={() => session.endGesture()}
/>
<PromptSelect
  label="Add a channel"
  items={free.map((c) => ({ id: c.id, title: `${c.sign} · ${c.name}` }))}
  onchoose={(id) => set('Add a channel', (s) => (s.weights[id] = 0))}
/>

<style>
  .weight {
    display: grid;
    grid-template-columns: 1fr 28px;
  }
</style>
