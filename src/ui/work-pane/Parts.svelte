<script lang="ts">
  import { isAllTones } from '$core/blend/limits';
  import { modelOf } from '$core/colour';
  import { actsOn } from '$core/document';
  import BlendPart from './BlendPart.svelte';
  import LimitsPart from './LimitsPart.svelte';
  import OnPart from './OnPart.svelte';
  import type { Part } from '../bench/bench.svelte';
  import type { PanelProps } from './panels';
  import { arrowGroup } from '../shell/arrow-group';

  let { session, bench, step }: PanelProps = $props();

  const open = $derived(bench.part);
  const on = $derived(actsOn(step));
  const model = $derived(modelOf(on.model));
  const signs = $derived(
    model.channels
      .filter((c) => on.channels.includes(c.letter))
      .map((c) => c.sign)
      .join(' ')
  );
  const { mode, opacity, under, over } = $derived(step.blend);
  const { where } = $derived(step);
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
      value: `${mode.replace('-', ' ')}${opacity < 1 ? ` ${Math.round(100 * opacity)} %` : ''}`,
      changed: mode !== 'normal' || opacity !== 1
    },
    {
      id: 'limits' as const,
      title: 'Limits',
      value: isAllTones(under) && isAllTones(over) ? 'all tones' : 'some tones',
      changed: !isAllTones(under) || !isAllTones(over)
    },
    {
      id: 'where' as const,
      title: 'Where',
      value: where?.terms.length
        ? where.terms.length === 1
          ? '1 term'
          : `${where.terms.length} terms`
        : 'everywhere',
      changed: where !== null
    }
  ]);

  function toggle(id: Part): void {
    bench.masks.place = { kind: 'step' };
    bench.part = open === id ? null : id;
  }
</script>

{#if open && open !== 'where'}
  <div class="drawer" role="region" aria-label={parts.find((p) => p.id === open)?.title}>
    {#if open === 'on'}<OnPart {session} {bench} {step} />
    {:else if open === 'blend'}<BlendPart {session} {step} />
    {:else}<LimitsPart {session} {bench} {step} />{/if}
  </div>
{/if}
<div class="parts" role="toolbar" {@attach arrowGroup} aria-label="Parts of the step">
  {#each parts as { id, title, value, changed } (id)}
    <button aria-expanded={open === id} class:changed onclick={() => toggle(id)}>
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
    grid-template-columns: minmax(58px, 0.8fr) 1.15fr 0.9fr 1.15fr;
    border-top: 1px solid var(--k-line);
  }
  button {
    display: flex;
    flex-direction: column;
    gap: 1px;
    min-width: 0;
    padding: 5px 4px 6px 9px;
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
