<script lang="ts">
  import type { Channel, Encoding } from '$core/colour';
  import { meanMove, type Moved } from '$core/measure/main-colours';
  import type { MixProposal } from '$core/measure/propose';
  import { labUnit, rowTotal } from '$core/ops/mix';
  import { cssColour } from '../channel-colour';
  import { told } from '../numbers';
  import Proposal from './Proposal.svelte';

  interface Props {
    proposal: MixProposal;
    outputs: readonly Channel[];
    /** Of the colours that are told. */
    encoding: Encoding;
    /** What becomes of the picture's main colours, the furthest moved first. */
    moved: readonly Moved[];
    ontake: () => void;
    ondismiss: () => void;
    /** Holds a colour by a pin where it stands, and finds the rows anew. */
    onkeep: (colour: Moved) => void;
  }
  let { proposal, outputs, encoding, moved, ontake, ondismiss, onkeep }: Props = $props();

  /** A move under this is not seen side by side. */
  const SEEN = 2;
  const MOST_TOLD = 4;
  const far = $derived(moved.filter(({ by }) => by >= SEEN).slice(0, MOST_TOLD));
  const rows = $derived(
    outputs.flatMap((c) => (proposal.rows[c.letter] ? [{ c, row: proposal.rows[c.letter] }] : []))
  );
  const constants = $derived(rows.some(({ row }) => 'constant' in row));
</script>

<Proposal label="Proposed mix" {ontake} {ondismiss}>
  <table class="mono">
    <thead>
      <tr>
        <th></th>
        {#each outputs as c (c.id)}<th>{c.sign}</th>{/each}
        <th>{constants ? 'constant' : 'total'}</th>
      </tr>
    </thead>
    <tbody>
      {#each rows as { c, row } (c.id)}
        <tr>
          <th>{c.sign}</th>
          {#each outputs as input (input.id)}<td>{told(100 * row[input.letter], 1)}</td>{/each}
          <td>{constants ? told(labUnit(c.letter) * row['constant'], 1) : told(100 * rowTotal(row), 1)}</td>
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
  {#if moved.length > 0}
    <p>
      The picture’s main colours move by ΔE <b class="mono">{meanMove(moved).toFixed(1)}</b> in the mean, at
      most
      <b class="mono">{moved[0].by.toFixed(1)}</b>.
      {#if far.length > 0}A pin of role <i>keep</i> holds one where it is.{/if}
    </p>
    <ul aria-label="Main colours that move">
      {#each far as colour (`${colour.x} ${colour.y}`)}
        <li>
          <span class="pair">
            <i style:background={cssColour(colour.rgb, encoding)} title="before"></i>
            <i style:background={cssColour(colour.after, encoding)} title="after"></i>
            <span class="mono">ΔE {colour.by.toFixed(1)}</span>
            <span class="quiet mono">at {Math.floor(colour.x)}, {Math.floor(colour.y)}</span>
          </span>
          <button
            class="tool"
            title="Drop a pin of role keep there, and solve anew"
            aria-label={`Keep the colour at ${Math.floor(colour.x)}, ${Math.floor(colour.y)}`}
            onclick={() => onkeep(colour)}>Keep</button
          >
        </li>
      {/each}
    </ul>
  {/if}
</Proposal>

<style>
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
    margin: 6px 0 0;
    padding: 0;
    list-style: none;
  }
  li {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 8px;
  }
  .pair {
    display: flex;
    align-items: center;
    gap: 4px;
  }
  .pair i {
    width: 18px;
    height: 14px;
  }
  .pair .mono {
    margin-left: 4px;
  }
  li .tool {
    height: 24px;
    font-size: 12px;
  }
  p {
    margin: 6px 0 0;
  }
</style>
