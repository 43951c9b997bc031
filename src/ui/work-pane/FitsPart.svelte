<script lang="ts">
  import { cardsOf, takenOf } from '$core/files/fits/told';
  import type { FitsFacts } from '$core/raster/frame';
  import type { Session } from '../bench/session.svelte';
  import { told, toldShort, typed } from '../numbers';

  interface Props {
    session: Session;
    /** The frame's id and the name of its file. */
    id: string;
    file: string;
    fits: FitsFacts;
  }
  let { session, id, file, fits }: Props = $props();

  const taken = $derived(takenOf(fits, file));
  const rows = $derived(
    [
      ['Object', taken.object],
      ['Filter', taken.filter],
      ['Exposure', taken.exposure ? `${toldShort(taken.exposure)} s` : ''],
      ['Date', taken.date.replace('T', ' ')]
    ].filter(([, value]) => value !== '')
  );
  let wanted = $state('');
  const cards = $derived(cardsOf(fits));
  const found = $derived(
    cards.filter((card) =>
      `${card.key} ${String(card.value ?? '')} ${card.comment}`
        .toLowerCase()
        .includes(wanted.trim().toLowerCase())
    )
  );

  type Frame = Session['document']['frames'][number];
  function read(label: string, change: (frame: { -readonly [K in keyof Frame]: Frame[K] }) => void): void {
    session.change(label, (draft) => {
      const frame = draft.frames.find((f) => f.id === id);
      if (frame) change(frame);
    });
  }

  let wrong = $state('');
  function divideBy(text: string): void {
    const value = typed(text, fits.range);
    wrong = value === null || !(value > 0 && value <= 1e30) ? 'A number above 0' : '';
    if (!wrong && value !== fits.range) read('Range of a frame', (frame) => (frame.range = value!));
  }
</script>

<dl class="facts">
  {#each rows as [name, value] (name)}
    <div>
      <dt>{name}</dt>
      <dd>{value}</dd>
    </div>
  {/each}
  <div>
    <dt>1 stands for</dt>
    <dd>
      <input
        class="mono"
        aria-label="What 1 stands for in the file"
        aria-invalid={wrong !== ''}
        title="The values of the file are divided by this; it goes back into a FITS that is written"
        value={told(fits.range, 6)}
        onchange={(event) => divideBy(event.currentTarget.value)}
      />
      {#if wrong}<span class="warn">{wrong}</span>{/if}
    </dd>
  </div>
  {#if fits.planes > 1}
    <div>
      <dt>Plane</dt>
      <dd>
        <select
          class="tool-choice"
          aria-label="Plane of the file"
          value={fits.plane ?? 0}
          onchange={(event) => {
            const plane = Number(event.currentTarget.value);
            read('Another plane of a file', (frame) => {
              if (plane > 0) frame.plane = plane;
              else delete frame.plane;
            });
          }}
        >
          {#if fits.planes === 3}<option value={0}>red, green and blue</option>{/if}
          {#each { length: Math.min(fits.planes, 1000) } as _, i (i)}<option value={i + 1}>{i + 1}</option
            >{/each}
        </select>
      </dd>
    </div>
  {/if}
</dl>
<details>
  <summary>Header, {cards.length} cards</summary>
  <input
    class="search"
    type="search"
    aria-label="Search the header"
    placeholder="Search"
    bind:value={wanted}
  />
  <div class="cards">
    <table class="mono">
      <tbody>
        {#each found.slice(0, 500) as { key, value, comment }, i (i)}
          <tr><th scope="row">{key}</th><td>{value ?? ''}</td><td class="quiet">{comment}</td></tr>
        {:else}
          <tr><td>No card holds that.</td></tr>
        {/each}
      </tbody>
    </table>
  </div>
</details>

<style>
  dd input {
    width: 110px;
    height: 24px;
    padding: 0 6px;
    border: 0;
    background: #2e2e2e;
    color: var(--k-text);
    font-size: 12px;
  }
  .warn {
    font-size: 12px;
  }
  details {
    margin: 0 12px 12px;
  }
  summary {
    padding: 4px 0;
    cursor: pointer;
  }
  .search {
    width: 100%;
    height: 26px;
    margin-bottom: 4px;
    padding: 0 8px;
    border: 0;
    background: #2e2e2e;
    color: var(--k-text);
    font: inherit;
  }
  .cards {
    max-height: 260px;
    overflow: auto;
    scrollbar-width: thin;
    scrollbar-color: #555 transparent;
  }
  table {
    font-size: 11px;
  }
  th,
  td {
    padding: 1px 8px 1px 0;
    font-weight: 400;
    text-align: left;
    vertical-align: top;
  }
</style>
