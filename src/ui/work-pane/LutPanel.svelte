<script lang="ts">
  import { lut as op } from '$core/ops/lut';
  import { paramsOf } from '$core/ops/op';
  import { TABLE_FILES } from '../file-kinds';
  import { toldShort } from '../numbers';
  import { pool } from '../services';
  import { saveFile } from '../shell/save-file';
  import FilesButton from './FilesButton.svelte';
  import Opacity from './Opacity.svelte';
  import type { PanelProps } from './panels';

  let { session, bench, step }: PanelProps = $props();

  const params = $derived(paramsOf(op, step));
  const { tables } = $derived(session.document);
  const chosen = $derived(tables.find(({ id }) => id === params.table));
  const opened = $derived(params.table === null ? undefined : session.files.tables.get(params.table));

  async function saveUntouched(): Promise<void> {
    const { bytes } = await pool.run('writeTable', { table: null, as: 'png' }, { priority: 4 });
    saveFile('untouched table.png', new Blob([new Uint8Array(bytes)]));
    session.notice = '“untouched table.png” is among your browser’s downloads.';
  }

  const range = (low: readonly number[], high: readonly number[]): string => {
    const ends = low.map((v, c) => `${toldShort(v)} … ${toldShort(high[c])}`);
    return new Set(ends).size === 1 ? ends[0] : ends.join(', ');
  };
  const facts = $derived.by(() => {
    if (!opened) return [];
    const { curves, cube } = opened;
    return [
      ...(curves ? [['Curves', `${curves.size} values over ${range(curves.low, curves.high)}`]] : []),
      ...(cube ? [['Cube', `${cube.size}³ over ${range(cube.low, cube.high)}`]] : [])
    ];
  });
</script>

<div class="panel">
  <label>
    <span>Table</span>
    <select
      class="tool-choice"
      value={params.table ?? ''}
      onchange={(event) => {
        const table = event.currentTarget.value || null;
        session.changeParams(op, 'Choose a table', (p) => (p.table = table));
      }}
    >
      <option value="">{tables.length > 0 ? 'choose one' : 'none in this document yet'}</option>
      {#each tables as { id, name } (id)}<option value={id}>{name}</option>{/each}
    </select>
  </label>
  <FilesButton
    title="Add a table from a file …"
    label="File of a table"
    accept={TABLE_FILES}
    multiple={false}
    onfiles={([file]) => bench.chooseTable(file)}
  />
  <button
    class="tool raised wide"
    title="Put it through another program, and add what becomes of it here: it is the table of that change"
    onclick={() => void saveUntouched()}>Save an untouched picture of a table</button
  >
  {#if chosen}
    <dl>
      <dt>File</dt>
      <dd>{chosen.file}</dd>
      {#each facts as [what, text] (what)}
        <dt>{what}</dt>
        <dd class="mono">{text}</dd>
      {/each}
    </dl>
  {:else}
    <p class="quiet">A .cube file, or a picture of a table of 512 × 512 or 1728 × 1728 pixels.</p>
  {/if}
  <label>
    <span>Between nodes</span>
    <select
      class="tool-choice"
      value={params.interpolation}
      onchange={(event) => {
        const by = event.currentTarget.value as 'tetrahedral';
        session.changeParams(op, 'Between nodes', (p) => (p.interpolation = by));
      }}
    >
      <option value="tetrahedral">tetrahedral</option>
      <option value="trilinear">trilinear</option>
    </select>
  </label>
  <h3>Strength</h3>
  <Opacity {session} {step} />
</div>

<style>
  label {
    display: grid;
    grid-template-columns: 96px 1fr;
    align-items: center;
    gap: 8px;
    margin: 6px 0;
  }
  select {
    min-width: 0;
  }
  .wide {
    width: 100%;
    margin-top: 6px;
  }
  dl {
    display: grid;
    grid-template-columns: 96px 1fr;
    gap: 4px 8px;
    margin: 10px 0;
    font-size: 12px;
  }
  dt {
    color: var(--k-text-quiet);
  }
  dd {
    overflow-wrap: anywhere;
    margin: 0;
  }
  p {
    margin: 8px 0;
    font-size: 12px;
  }
  h3 {
    margin: 12px 0 4px;
    font-weight: 600;
    font-size: 13px;
  }
</style>
