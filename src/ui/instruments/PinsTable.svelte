<script lang="ts">
  import Add from 'carbon-icons-svelte/lib/Add.svelte';
  import TrashCan from 'carbon-icons-svelte/lib/TrashCan.svelte';
  import { wallModels } from '$core/colour';
  import { fromNeutral } from '$core/measure/difference';
  import type { BenchState } from '../bench/bench.svelte';
  import {
    changePin,
    dropPin,
    pinOver,
    pinRoles,
    pinSizes,
    removePin,
    roleSigns,
    type PinRole
  } from '../bench/pins';
  import type { Session } from '../bench/session.svelte';
  import { readings } from '../numbers';
  import { pool } from '../services';
  import { PinReader } from './pin-reader.svelte';

  let { session, bench }: { session: Session; bench: BenchState } = $props();

  const reader = new PinReader(pool);
  $effect(() => reader.point(session, bench));

  let width = $state(0);
  /** With room enough, all three models; else the one chosen. */
  const WIDE = 900;
  const shownModels = $derived(
    width >= WIDE ? wallModels : wallModels.filter((m) => m.id === bench.layout.pinsIn)
  );
  const PICK = 'drop a pin';

  function drop(): void {
    bench.togglePicking({
      id: PICK,
      label: 'Click: drop a pin; drag: one over that part',
      pick: (spot) => {
        bench.pin = dropPin(session, spot);
        bench.picking = null;
      },
      area: (from, to) => {
        const { spot, size } = pinOver(from, to);
        bench.pin = dropPin(session, spot, undefined, size);
        bench.picking = null;
      }
    });
  }
  const delta = (rgb: readonly number[] | null): string => (rgb ? fromNeutral(rgb).toFixed(1) : '–');
</script>

<section class="pins" aria-label="Pins" bind:clientWidth={width}>
  <div class="choices">
    <button
      class="tool raised"
      aria-pressed={bench.picking?.id === PICK}
      title="Or press P over the picture"
      onclick={drop}><Add size={16} /> Pin</button
    >
    {#if width < WIDE}
      <div role="radiogroup" aria-label="Values in" class="models" title="In above, out below">
        {#each wallModels as { id, title } (id)}
          <button
            class="tool"
            role="radio"
            aria-checked={bench.layout.pinsIn === id}
            onclick={() => bench.layout.set({ pinsIn: id })}>{title}</button
          >
        {/each}
      </div>
    {/if}
  </div>
  {#if session.document.pins.length === 0}
    <p class="quiet">
      Point at a thing that ought to be neutral, and press <b class="mono">P</b>: a pin reads it before and
      after, and balance and mix can be solved from it.
    </p>
  {:else}
    <div class="scroll">
      <table>
        <thead>
          <tr>
            <th>Name</th>
            <th>Role</th>
            <th>Size</th>
            <th title="ΔE 2000 to the grey of the same L*">ΔE grey</th>
            {#each shownModels as model (model.id)}
              <th class="values mono">
                {#each model.channels as c (c.id)}<span>{c.sign}</span>{/each}
              </th>
            {/each}
            <th></th>
          </tr>
        </thead>
        <tbody>
          {#each reader.readings as { pin, before, after } (pin.id)}
            <tr class:chosen={bench.pin === pin.id} onpointerdown={() => (bench.pin = pin.id)}>
              <td>
                <input
                  class="name"
                  aria-label={`Name of ${pin.name}`}
                  value={pin.name}
                  onchange={(event) => {
                    const name = event.currentTarget.value.trim();
                    if (name) changePin(session, pin.id, 'Name a pin', { name });
                    else event.currentTarget.value = pin.name;
                  }}
                />
              </td>
              <td>
                <select
                  aria-label={`Role of ${pin.name}`}
                  title={roleSigns[pin.role].title}
                  value={pin.role}
                  onchange={(event) =>
                    changePin(session, pin.id, 'Role of a pin', {
                      role: event.currentTarget.value as PinRole
                    })}
                >
                  {#each pinRoles as role (role)}<option value={role}>{role}</option>{/each}
                </select>
              </td>
              <td>
                <select
                  aria-label={`Size of ${pin.name}`}
                  value={String(pin.size)}
                  onchange={(event) =>
                    changePin(session, pin.id, 'Size of a pin', { size: Number(event.currentTarget.value) })}
                >
                  {#each [...new Set([...pinSizes, pin.size])].sort((a, b) => a - b) as size (size)}<option
                      value={String(size)}>{size}</option
                    >{/each}
                </select>
              </td>
              <td class="mono delta" data-pin={pin.name}>
                <div class="in">{delta(before)}</div>
                <div>{delta(after)}</div>
              </td>
              {#each shownModels as model (model.id)}
                {@const ids = model.channels.map((c) => c.id)}
                <td class="mono values">
                  {#if before && after}
                    {#each [before, after] as rgb, side (side)}
                      <div class:in={side === 0} data-side={side === 0 ? 'in' : 'out'}>
                        {#each readings(rgb, ids) as { channel, text } (channel.id)}<span>{text}</span>{/each}
                      </div>
                    {/each}
                  {:else}<span class="quiet">beside the picture</span>{/if}
                </td>
              {/each}
              <td>
                <button
                  class="tool"
                  aria-label={`Remove ${pin.name}`}
                  title="Remove"
                  onclick={() => removePin(session, pin.id)}><TrashCan size={16} /></button
                >
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
</section>

<style>
  .pins {
    display: flex;
    flex: 2 1 440px;
    flex-direction: column;
    min-width: 260px;
    overflow: hidden;
    padding: 4px 8px;
  }
  .choices,
  .models {
    display: flex;
    align-items: center;
    gap: 6px;
  }
  .models .tool {
    height: 24px;
    font-size: 12px;
  }
  [aria-checked='true'] {
    background: #3a3a3a;
    color: var(--k-bone);
  }
  .scroll {
    flex: 1;
    min-height: 0;
    overflow: auto;
    scrollbar-width: thin;
    scrollbar-color: #555 transparent;
  }
  table {
    width: 100%;
    border-collapse: collapse;
    font-size: 11.5px;
    white-space: nowrap;
  }
  th {
    padding: 4px 5px;
    color: var(--k-text-quiet);
    font-weight: 400;
    font-size: 11px;
    text-align: left;
  }
  td {
    padding: 1px 5px;
    border-top: 1px solid #2a2a2a;
  }
  .values div,
  th.values {
    display: grid;
    grid-auto-columns: 5.6ch;
    grid-auto-flow: column;
  }
  .values span {
    text-align: right;
  }
  .delta {
    text-align: right;
  }
  .in {
    color: var(--k-text-quiet);
  }
  .chosen td {
    background: #2b2a27;
  }
  .name {
    width: 70px;
    border: 0;
    background: none;
    color: var(--k-text);
    font: inherit;
  }
  select {
    border: 0;
    background: #2a2a2a;
    color: var(--k-text);
    font: inherit;
  }
  p {
    margin: 8px 2px;
    font-size: 12px;
  }
</style>
