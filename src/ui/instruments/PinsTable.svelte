<script lang="ts">
  import Add from 'carbon-icons-svelte/lib/Add.svelte';
  import TrashCan from 'carbon-icons-svelte/lib/TrashCan.svelte';
  import { wallModels } from '$core/colour';
  import { pinRoles, type PinRole } from '$core/document';
  import { fromNeutral } from '$core/measure/difference';
  import type { BenchState } from '../bench/bench.svelte';
  import { changePin, dropPin, pinOver, pinSizes, removePin, roleSigns } from '../bench/pins';
  import type { Session } from '../bench/session.svelte';
  import { readings } from '../numbers';
  import { PinReadings } from './pin-readings.svelte';
  import { arrowGroup } from '../shell/arrow-group';

  let { session, bench }: { session: Session; bench: BenchState } = $props();

  const reader = new PinReadings();
  $effect(() => reader.point(session, bench));

  let width = $state(0);
  /** With room enough, all three models; else the one chosen. */
  const WIDE = 900;
  const shownModels = $derived(
    width >= WIDE ? wallModels : wallModels.filter((m) => m.id === bench.layout.pinsIn)
  );
  /** Whose a pin is only matters where there are several pictures. */
  const ofSeveral = $derived(
    session.document.pictures.length > 1 || session.cursor.pins.some((p) => p.picture === undefined)
  );
  const PICK = 'drop a pin';

  function drop(): void {
    bench.hand.pick({
      id: PICK,
      label: 'Click: drop a pin; drag: one over that part',
      pick: (spot) => {
        bench.pin = dropPin(session, spot);
        bench.hand.drop();
      },
      area: (from, to) => {
        const { spot, size } = pinOver(from, to);
        bench.pin = dropPin(session, spot, undefined, size);
        bench.hand.drop();
      }
    });
  }
  const delta = (rgb: readonly number[] | null, side: 0 | 1): string =>
    rgb ? fromNeutral(rgb, bench.encodings[side]).toFixed(1) : '–';
</script>

<section class="pins" aria-label="Pins" bind:clientWidth={width}>
  <div class="choices">
    <button
      class="tool raised"
      aria-pressed={bench.hand.picking?.id === PICK}
      title="Or press P over the picture"
      onclick={drop}><Add size={16} /> Pin</button
    >
    {#if width < WIDE}
      <div
        role="radiogroup"
        {@attach arrowGroup}
        aria-label="Values in"
        class="models"
        title="In above, out below"
      >
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
  {#if session.cursor.pins.length === 0}
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
            {#if ofSeveral}<th title="Whose steps are solved from the pin">Of</th>{/if}
            <th title="ΔE 2000 to the grey of the same L*">ΔE grey</th>
            {#each shownModels as model (model.id)}
              <th class="values mono">
                <div>
                  {#each model.channels as c (c.id)}<span>{c.sign}</span>{/each}
                </div>
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
              {#if ofSeveral}
                <td>
                  <select
                    aria-label={`Pictures of ${pin.name}`}
                    title={pin.picture === undefined
                      ? 'Belongs to all pictures: the steps of each are solved from it'
                      : 'Belongs to this picture alone'}
                    value={pin.picture === undefined ? 'all' : 'this'}
                    onchange={(event) =>
                      changePin(session, pin.id, 'Pictures of a pin', {
                        picture: event.currentTarget.value === 'all' ? undefined : session.cursor.picture.id
                      })}
                  >
                    <option value="this">this</option>
                    <option value="all">all</option>
                  </select>
                </td>
              {/if}
              <td class="mono delta" data-pin={pin.name}>
                <div class="in">{delta(before, 0)}</div>
                <div>{delta(after, 1)}</div>
              </td>
              {#each shownModels as model (model.id)}
                {@const ids = model.channels.map((c) => c.id)}
                <td class="mono values">
                  {#if before && after}
                    {#each [before, after] as rgb, side (side)}
                      <div class:in={side === 0} data-side={side === 0 ? 'in' : 'out'}>
                        {#each readings(rgb, bench.encodings[side], ids) as { channel, text } (channel.id)}<span
                            >{text}</span
                          >{/each}
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
    padding: 2px 8px;
  }
  .choices,
  .models {
    display: flex;
    align-items: center;
    gap: 6px;
  }
  .choices > .tool {
    height: 24px;
    font-size: 12px;
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
    position: sticky;
    z-index: 1;
    top: 0;
    padding: 1px 3px;
    background: var(--k-surface);
    color: var(--k-text-quiet);
    font-weight: 400;
    font-size: 11px;
    text-align: left;
  }
  td {
    height: 29px;
    padding: 0 3px;
    line-height: 14px;
    vertical-align: middle;
    border-top: 1px solid #2a2a2a;
  }
  .values div {
    display: grid;
    grid-auto-columns: 5.3ch;
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
    width: 58px;
    height: 20px;
    padding: 0;
    border: 0;
    background: none;
    color: var(--k-text);
    font: inherit;
  }
  td .tool {
    height: 24px;
    min-width: 24px;
    padding: 0;
  }
  select {
    height: 20px;
    padding: 0;
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
