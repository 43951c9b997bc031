<script lang="ts">
  import { untrack } from 'svelte';
  import { findStep, titleOf, type Step } from '$core/document';
  import { bakedSizes, stepOfTable, type Baked } from '$core/lut/bake';
  import { opOf } from '$core/ops';
  import { pictureGeometry } from '$core/path/plan';
  import type { BenchState } from '../bench/bench.svelte';
  import { DifferenceMeasure } from '../bench/difference.svelte';
  import type { Session } from '../bench/session.svelte';
  import { told } from '../numbers';
  import { pool } from '../services';
  import { saveFile } from '../shell/save-file';
  import Amount from './Amount.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    /** Ids of steps of the path that follow each other. */
    steps: readonly string[];
  }
  let { session, bench, steps }: Props = $props();

  const chosen = $derived(
    steps.flatMap((id) => {
      const step = findStep(session.cursor.picture.steps, id);
      return step ? [step] : [];
    })
  );
  const what = $derived(
    chosen.length === 1
      ? titleOf(chosen[0])
      : chosen.length === session.cursor.active.length
        ? 'the path'
        : `${chosen.length} steps`
  );

  let title = $state('');
  let size = $state<number>(33);
  let low = $state(0);
  let high = $state(1);
  let curves = $state(true);
  let baked = $state.raw<Baked | null>(null);
  let busy = $state(false);
  let problem = $state('');
  let running = new AbortController();
  $effect(() => {
    void steps;
    title = untrack(() => (chosen.length === 1 ? titleOf(chosen[0]) : session.cursor.picture.name));
  });
  $effect(() => () => running.abort());
  // What is changed makes the report one of something else.
  $effect(() => {
    void [session.document, steps, size, low, high, curves];
    baked = null;
    measure.stop();
  });

  const measure = new DifferenceMeasure();
  const measured = $derived(measure.measured);

  async function make(): Promise<void> {
    running.abort();
    running = new AbortController();
    const { signal } = running;
    busy = true;
    problem = '';
    try {
      const { source, head } = session.cursor;
      const last = { after: steps.at(-1)! };
      const baking = { title: title.trim(), size, low, high, curves, only: steps };
      const made = (await pool.run('bake', { ...source, at: last, baking }, { priority: 4, signal })).baked;
      baked = made;
      // The picture with the table in the place of the steps, lying as theirs does.
      const first = source.steps.findIndex(({ id }) => id === steps[0]);
      const moving = (step: Step): boolean => opOf(step.op).kind === 'geometry';
      const before = [
        ...source.steps.slice(0, first),
        ...source.steps.filter((s) => steps.includes(s.id) && moving(s))
      ];
      const other = {
        head: source.head,
        pins: source.pins,
        at: 'end' as const,
        steps: [...before, stepOfTable(made.table)]
      };
      const geometry = pictureGeometry(head, before);
      const shown = { ...source, at: last, hold: null, levels: head.levels, geometry };
      measure.measure(shown, { by: 'colours', times: 1, other });
    } catch (error) {
      if (!signal.aborted) problem = (error as Error).message;
    } finally {
      if (running.signal === signal) busy = false;
    }
  }

  async function save(as: 'cube' | 'png'): Promise<void> {
    if (!baked) return;
    const table = { ...baked.table, title: title.trim() };
    const { bytes } = await pool.run('writeTable', { table, as }, { priority: 4 });
    const name = `${(title.trim() || 'table').replace(/[\\/:*?"<>|]/g, '_')}.${as}`;
    saveFile(name, new Blob([new Uint8Array(bytes)]));
    session.notice = `“${name}” is among your browser’s downloads.`;
  }

  const place = (at: readonly number[]): string => at.map((v) => told(100 * v, 0)).join(' ');
</script>

<header class="pane-header">
  <span class="pane-title">Work</span>
  <span class="name">A LUT of {what}</span>
  <span class="space"></span>
  <button class="tool" onclick={() => (bench.baking = null)}>Close</button>
</header>
<div class="scroll">
  <div class="panel">
    <label><span>Title</span><input class="text" bind:value={title} maxlength="200" /></label>
    <label>
      <span>Size</span>
      <select class="tool-choice" bind:value={size}>
        {#each bakedSizes as n (n)}<option value={n}>{n}³ nodes</option>{/each}
      </select>
    </label>
    <Amount
      label="from"
      name="Domain from"
      value={100 * low}
      neutral={0}
      min={-100}
      max={90}
      oninput={(v) => (low = Math.min(v / 100, high - 0.01))}
    />
    <Amount
      label="to"
      name="Domain to"
      value={100 * high}
      neutral={100}
      min={10}
      max={400}
      oninput={(v) => (high = Math.max(v / 100, low + 0.01))}
    />
    <label class="check">
      <input type="checkbox" bind:checked={curves} />
      <span>Curves before the cube, where they bring it nearer</span>
    </label>
    <button class="tool raised wide" disabled={busy || chosen.length === 0} onclick={() => void make()}
      >{busy ? 'Making the table …' : 'Make the table'}</button
    >
    {#if problem}<p class="warn" role="alert">{problem}</p>{/if}
    {#if baked}
      <h3>What it carries</h3>
      <ul>
        {#each baked.steps as { id, title: name, why, frozen } (id)}
          <li class:left={why.length > 0}>
            <b>{why.length > 0 ? '–' : '✓'}</b>
            <span
              >{name}{#if why.length > 0}<i>left out: {why.join('; ')}</i>{:else if frozen}<i
                  >with the numbers solved from this picture</i
                >{/if}</span
            >
          </li>
        {/each}
      </ul>
      <h3>How near it comes, ΔE 2000</h3>
      <table aria-label="How near it comes">
        <thead><tr><th></th><th>mean</th><th>95 %</th><th>largest</th><th>at</th></tr></thead>
        <tbody class="mono">
          <tr>
            <th>every colour</th>
            <td>{told(baked.error.mean, 2)}</td>
            <td>{told(baked.error.most, 2)}</td>
            <td>{told(baked.error.largest, 2)}</td>
            <td>{place(baked.error.at)}</td>
          </tr>
          <tr>
            <th>this picture</th>
            {#if measured?.figures}
              <td>{told(100 * measured.figures.mean, 2)}</td>
              <td>{told(100 * measured.figures.most, 2)}</td>
              <td>{told(100 * measured.figures.largest, 2)}</td>
              <td>{measured.figures.at.x}, {measured.figures.at.y}</td>
            {:else}<td colspan="4">…</td>{/if}
          </tr>
        </tbody>
      </table>
      <p class="quiet">
        {#if measured && measured.part < 1}So far, {Math.round(100 * measured.part)} % of the picture.{/if}
        Over every colour, the table is set against the steps that it carries; over this picture, against all of
        them.
        {#if baked.table.curves}Curves stand before its cube.{/if}
      </p>
      <button class="tool raised wide" onclick={() => void save('cube')}>Save as a .cube file</button>
      <button
        class="tool raised wide"
        title="A table of 64³ nodes as a PNG of 512 × 512 pixels, for programs that take such"
        onclick={() => void save('png')}>Save as a picture of the table</button
      >
    {:else}
      <p class="quiet">
        A table knows colours alone: steps that look at neighbours, at places or at other pictures are left
        out, and named here before it is saved.
      </p>
    {/if}
  </div>
</div>

<style>
  .name {
    overflow: hidden;
    font-weight: 600;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .space {
    flex: 1;
  }
  .scroll {
    flex: 1;
    min-height: 0;
    overflow-y: auto;
  }
  .panel {
    padding: 12px;
  }
  label {
    display: grid;
    grid-template-columns: 72px 1fr;
    align-items: center;
    gap: 8px;
    margin: 4px 0;
  }
  .check {
    grid-template-columns: auto 1fr;
    margin: 10px 0;
    font-size: 12px;
  }
  .check input {
    accent-color: var(--k-bone);
  }
  .text {
    height: 24px;
    padding: 0 7px;
    border: 0;
    background: #2e2e2e;
    color: var(--k-text);
    font: inherit;
  }
  .wide {
    width: 100%;
    margin-top: 6px;
  }
  h3 {
    margin: 16px 0 4px;
    font-weight: 600;
    font-size: 13px;
  }
  ul {
    margin: 0;
    padding: 0;
    list-style: none;
    font-size: 12px;
  }
  li {
    display: flex;
    gap: 8px;
    padding: 2px 0;
  }
  li b {
    color: var(--k-bone);
  }
  i {
    display: block;
    color: var(--k-text-quiet);
    font-style: normal;
  }
  .left,
  table {
    width: 100%;
    border-collapse: collapse;
    font-size: 12px;
  }
  th,
  td {
    padding: 3px 4px;
    font-weight: 400;
    text-align: right;
  }
  th:first-child {
    text-align: left;
    font-family: 'IBM Plex Sans', sans-serif;
  }
  p {
    margin: 8px 0;
    font-size: 12px;
  }
</style>
