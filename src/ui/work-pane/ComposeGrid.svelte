<script lang="ts">
  import { filterInName } from '$core/files/fits/told';
  import { isComposed, partsOf, withPart, type Row } from '$core/heads';
  import type { Reference } from '$core/document';
  import { assigned, assignments, changeParts, sourcesFor } from '../bench/composing';
  import type { Session } from '../bench/session.svelte';
  import { swatch } from '../channel-colour';
  import { toldShort, typed } from '../numbers';
  import NarrowBand from './NarrowBand.svelte';
  import OwnAssignments from './OwnAssignments.svelte';
  import Switch from './Switch.svelte';

  let { session }: { session: Session } = $props();

  const head = $derived(session.cursor.picture.head);
  const sources = $derived(sourcesFor(session));
  const ROWS: readonly { row: Row; name: string; channel: string }[] = [
    { row: 'r', name: 'red', channel: 'rgb.r' },
    { row: 'g', name: 'green', channel: 'rgb.g' },
    { row: 'b', name: 'blue', channel: 'rgb.b' },
    { row: 'l', name: 'lightness', channel: 'lab.l' }
  ];
  const rows = $derived(ROWS.filter(({ row }) => row !== 'l' || (isComposed(head) && head.l !== undefined)));

  /** What a lightness of its own begins with: the broad-band frame where there is one. */
  const light = $derived(
    (sources.find(({ picture }) => filterInName(picture.name) === 'L') ?? sources[0])?.picture
  );

  /** What a row is made of, in words. */
  function sentence(row: Row, name: string): string {
    if (!isComposed(head)) return '';
    const parts = sources.flatMap(({ picture, from }) => {
      const weight = partsOf(head, row, from);
      return weight === 0 ? [] : [`${toldShort(100 * weight)} % ${picture.name}`];
    });
    const start = name[0].toUpperCase() + name.slice(1);
    return parts.length > 0 ? `${start} is ${parts.join(' + ')}.` : `${start} is empty.`;
  }

  function put(row: Row, name: string, from: Reference, weight: number): void {
    changeParts(
      session,
      `${name} of another picture`,
      (of) => withPart(of, row, from, weight),
      `compose ${row} ${from.picture}`
    );
  }

  function onkeydown(event: KeyboardEvent, row: Row, name: string, from: Reference, weight: number): void {
    const by = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (!by) return;
    event.preventDefault();
    put(row, name, from, Math.round(100 * weight + by * (event.shiftKey ? 10 : 1)) / 100);
  }

  function take(field: HTMLInputElement, row: Row, name: string, from: Reference, weight: number): void {
    const value = typed(field.value, 100 * weight);
    if (value === null || Math.abs(value) > 100_000) field.value = toldShort(100 * weight);
    else if (value !== 100 * weight) put(row, name, from, value / 100);
    session.endGesture();
  }
</script>

{#if isComposed(head)}
  <div class="grid">
    <div class="row" role="group" aria-label="Usual assignments">
      {#each assignments as one (one.title)}
        {@const made = assigned(session.document.pictures, one)}
        {@const { title } = one}
        <button
          class="tool raised"
          disabled={!made}
          title={made
            ? `Red, green and blue by ${title}`
            : 'Its filters are not all among the pictures, by their names'}
          onclick={() => made && changeParts(session, `Assign ${title}`, () => made)}>{title}</button
        >
      {/each}
    </div>
    <OwnAssignments {session} />
    <div class="scroll">
      <table aria-label="What the picture is made of, in percent">
        <thead>
          <tr>
            <th></th>
            {#each sources as { picture } (picture.id)}<th scope="col" title={picture.name}>{picture.name}</th
              >{/each}
          </tr>
        </thead>
        <tbody>
          {#each rows as { row, name, channel } (row)}
            <tr>
              <th scope="row"><span class="dot" style:background={swatch(channel)}></span>{name}</th>
              {#each sources as { picture, from } (picture.id)}
                {@const weight = partsOf(head, row, from)}
                <td
                  ><input
                    class="mono"
                    class:none={weight === 0}
                    inputmode="decimal"
                    aria-label={`${picture.name} in ${name}, percent`}
                    value={toldShort(100 * weight)}
                    onfocus={(event) => event.currentTarget.select()}
                    onkeydown={(event) => onkeydown(event, row, name, from, weight)}
                    onchange={(event) => take(event.currentTarget, row, name, from, weight)}
                  /></td
                >
              {/each}
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
    {#each rows as { row, name } (row)}<p class="quiet">{sentence(row, name)}</p>{/each}
    <Switch
      label="Lightness of its own"
      on={head.l !== undefined}
      onchange={(on) =>
        changeParts(session, on ? 'Lightness of its own' : 'No lightness of its own', ({ l: _, ...rest }) =>
          on && light ? withPart({ ...rest, l: [] }, 'l', { picture: light.id }, 1) : rest
        )}
    />
    <NarrowBand {session} />
  </div>
{/if}

<style>
  .grid {
    display: flex;
    flex-direction: column;
    gap: 8px;
    margin: 12px;
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
  }
  .scroll {
    overflow-x: auto;
  }
  th {
    max-width: 70px;
    padding: 2px 4px;
    overflow: hidden;
    font-weight: 400;
    font-size: 12px;
    text-align: right;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  th[scope='row'] {
    max-width: none;
    text-align: left;
  }
  .dot {
    display: inline-block;
    width: 8px;
    height: 8px;
    margin-right: 6px;
    border-radius: 50%;
  }
  input {
    width: 52px;
    height: 26px;
    padding: 0 6px;
    border: 0;
    background: #2e2e2e;
    color: var(--k-text);
    font-size: 12px;
    text-align: right;
  }
  .none:not(:focus) {
    color: var(--k-text-quiet);
  }
  p {
    margin: 0;
    font-size: 12px;
  }
</style>
