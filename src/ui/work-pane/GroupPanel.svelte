<script lang="ts">
  import Power from 'carbon-icons-svelte/lib/Power.svelte';
  import { insideOf, titleOf } from '$core/document';
  import { opOf } from '$core/ops';
  import { takeApart, toggleStep } from '../bench/steps';
  import Opacity from './Opacity.svelte';
  import type { PanelProps } from './panels';

  let { session, bench, step }: PanelProps = $props();

  const inside = $derived(insideOf(step));
  const unfolded = $derived(bench.isUnfolded(step));
</script>

<div class="panel">
  <Opacity {session} {step} label="strength" name="Strength of the group" />
  <h3>Inside</h3>
  <ol aria-label="Steps inside">
    {#each inside as one (one.id)}
      <li class:off={!one.enabled}>
        <button class="go" onclick={() => session.select(one.id)} title="Work on this step">
          <b>{titleOf(one)}</b><span>{opOf(one.op).sentence(one.params)}</span>
        </button>
        <button
          class="tool"
          aria-pressed={one.enabled}
          aria-label={`${titleOf(one)} on`}
          title={one.enabled ? 'Switch off' : 'Switch on'}
          onclick={() => toggleStep(session, one)}><Power size={16} /></button
        >
      </li>
    {:else}
      <li class="quiet">
        Nothing yet. Unfold it and drag steps into it, or choose several steps with Shift and press U.
      </li>
    {/each}
  </ol>
  <div class="row">
    <button class="tool raised" aria-expanded={unfolded} onclick={() => bench.setUnfolded(step, !unfolded)}
      >{unfolded ? 'Fold away in the path' : 'Unfold in the path'}</button
    >
    <button class="tool raised" disabled={inside.length === 0} onclick={() => takeApart(session, step)}
      >Take apart</button
    >
  </div>
  <p class="quiet">
    What the steps inside make together is faded here, and held to channels, tones or a place by the parts
    below.
  </p>
</div>

<style>
  h3 {
    margin: 12px 0 4px;
    font-weight: 600;
    font-size: 13px;
  }
  ol {
    margin: 0;
    padding: 0;
    list-style: none;
  }
  li {
    display: flex;
    align-items: center;
    min-height: 40px;
    border-bottom: 1px solid var(--k-line);
  }
  .go {
    display: flex;
    flex: 1;
    flex-direction: column;
    gap: 1px;
    min-width: 0;
    padding: 5px 4px;
    border: 0;
    background: none;
    color: inherit;
    font: inherit;
    text-align: left;
    cursor: pointer;
  }
  .go:hover {
    background: var(--k-raised);
  }
  .go b,
  .go span {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .go b {
    font-weight: 600;
  }
  .go span {
    color: var(--k-text-quiet);
    font-size: 12px;
  }
  .off .go {
    opacity: 0.55;
  }
  .row {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 6px;
    margin: 10px 0;
  }
  p {
    margin: 6px 0 0;
    font-size: 12px;
  }
</style>
