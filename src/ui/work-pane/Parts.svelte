<script lang="ts">
  import { isAllTones } from '$core/blend/limits';
  import { modelOf } from '$core/colour';
  import { actsOn } from '$core/document';
  import BlendPart from './BlendPart.svelte';
  import LimitsPart from './LimitsPart.svelte';
  import OnPart from './OnPart.svelte';
  import type { PanelProps } from './panels';

  let { session, bench, step }: PanelProps = $props();

  let open = $state<'on' | 'blend' | 'limits' | null>(null);
  const on = $derived(actsOn(step));
  const model = $derived(modelOf(on.model));
  const signs = $derived(
    model.channels
      .filter((c) => on.channels.includes(c.letter))
      .map((c) => c.sign)
      .join(' ')
  );
  const { mode, opacity, under, over } = $derived(step.blend);
  const parts = $derived([
    {
      id: 'on' as const,
      title: 'On',
      value: `${model.title} ${on.channels.length === model.channels.length ? '' : signs}`,
      changed: on.channels.length < model.channels.length
    },
    {
      id: 'blend' as const,
      title: 'Blend',
      value: `${mode.replace('-', ' ')} ${Math.round(100 * opacity)} %`,
      changed: mode !== 'normal' || opacity !== 1
    },
    {
      id: 'limits' as const,
      title: 'Limits',
      value: isAllTones(under) && isAllTones(over) ? 'all tones' : 'some tones',
      changed: !isAllTones(under) || !isAllTones(over)
    }
  ]);
</script>

{#if open}
  <div class="drawer" role="region" aria-label={parts.find((p) => p.id === open)?.title}>
    {#if open === 'on'}<OnPart {session} {bench} {step} />
    {:else if open === 'blend'}<BlendPart {session} {step} />
    {:else}<LimitsPart {session} {bench} {step} />{/if}
  </div>
{/if}
<div class="parts" role="group" aria-label="Parts of the step">
  {#each parts as { id, title, value, changed } (id)}
    <button aria-expanded={open === id} class:changed onclick={() => (open = open === id ? null : id)}>
      <span class="title">{title}</span>
      <span class="value">{value}</span>
    </button>
  {/each}
</div>

<style>
  .drawer {
    flex: none;
    max-height: 60%;
    overflow-y: auto;
    padding: 8px 12px 12px;
    background: #202020;
    border-top: 1px solid var(--k-line);
  }
  .parts {
    display: grid;
    flex: none;
    grid-template-columns: 1fr 1.35fr 1fr;
    border-top: 1px solid var(--k-line);
  }
  button {
    display: flex;
    flex-direction: column;
    gap: 1px;
    min-width: 0;
    padding: 5px 12px 6px;
    border: 0;
    border-right: 1px solid var(--k-line);
    background: none;
    color: var(--k-text-quiet);
    font: inherit;
    text-align: left;
    cursor: pointer;
  }
  button:last-child {
    border-right: 0;
  }
  button:hover,
  button[aria-expanded='true'] {
    background: #2a2a2a;
  }
  button[aria-expanded='true'] {
    box-shadow: inset 0 2px var(--k-bone);
  }
  .title {
    font-size: 11px;
    letter-spacing: 0.08em;
    text-transform: uppercase;
  }
  .value {
    overflow: hidden;
    max-width: 100%;
    color: var(--k-text);
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .changed .value {
    color: var(--k-bone);
    font-weight: 600;
  }
</style>
