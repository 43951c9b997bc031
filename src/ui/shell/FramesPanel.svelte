<script lang="ts">
  import { DataTable, Modal } from 'carbon-components-svelte';
  import Papa from 'papaparse';
  import { frameKey, type DocumentFrame } from '$core/document';
  import { takenOf } from '$core/files/fits/told';
  import { headOf } from '$core/heads';
  import type { PlaneStatistics } from '$core/measure/statistics';
  import { statisticsInParts } from '$engine/statistics';
  import type { Session } from '../bench/session.svelte';
  import { told } from '../numbers';
  import { pool } from '../services';
  import { leftOut } from '../some-of';
  import { saveFile } from './save-file';

  interface Props {
    session: Session;
    open: boolean;
  }
  let { session, open = $bindable() }: Props = $props();

  interface Row extends PlaneStatistics {
    readonly id: string;
    readonly name: string;
    readonly plane: string;
    readonly size: string;
    readonly filter: string;
    readonly exposure: number;
    readonly signal: number;
  }
  let rows = $state.raw<Row[]>([]);
  let doing = $state('');
  /** What is not in the table, and why. */
  let missing = $state.raw<readonly { readonly name: string; readonly why: string }[]>([]);
  const problems = $derived(leftOut(missing, ['is not in the table.', 'are not in the table.']));
  /** Whether the table is on the clipboard, once that was asked for; another one each time, so that it is said anew. */
  let copied = $state.raw<{ readonly done: boolean } | null>(null);
  const measured = $derived(rows.length > 0 && doing === '');

  const HEADERS = [
    ['name', 'Frame'],
    ['plane', 'Plane'],
    ['size', 'Size'],
    ['filter', 'Filter'],
    ['exposure', 'Exposure, s'],
    ['min', 'Min, %'],
    ['max', 'Max, %'],
    ['mean', 'Mean, %'],
    ['median', 'Median, %'],
    ['mad', 'MAD, %'],
    ['noise', 'Noise, %'],
    ['sky', 'Sky, %'],
    ['signal', 'Light over noise'],
    ['clipped', 'Clipped, %']
  ] as const;
  const SHARES: readonly string[] = ['min', 'max', 'mean', 'median', 'mad', 'noise', 'sky', 'clipped'];

  $effect(() => {
    if (!open) return;
    const leaving = new AbortController();
    void measure(leaving.signal);
    return () => leaving.abort();
  });

  /** One frame after another, so that not all have to be open at once. */
  async function measure(signal: AbortSignal): Promise<void> {
    rows = [];
    missing = [];
    copied = null;
    for (const frame of session.document.frames) {
      doing = `Looking at ${frame.name} …`;
      try {
        const found = await rowsOf(frame, signal);
        signal.throwIfAborted();
        rows = [...rows, ...found];
      } catch (error) {
        if (signal.aborted) return;
        missing = [...missing, { name: frame.name, why: (error as Error).message }];
      }
    }
    doing = '';
  }

  async function rowsOf(frame: DocumentFrame, signal: AbortSignal): Promise<Row[]> {
    const key = frameKey(session.files.hashes[frame.id], frame);
    const head = headOf(key, frame.encoding);
    const { opened, planes } = await session.pictures.withOpen([key], signal, async ([opened]) => {
      const planes = await statisticsInParts(pool, head, opened, { priority: 4, signal });
      return { opened, planes };
    });
    const { filter, exposure } = takenOf(opened.fits, frame.file);
    return Object.entries(planes).map(([plane, of]) => ({
      ...{ id: `${frame.id} ${plane}`, name: frame.name, plane, filter, exposure },
      ...{ size: `${opened.width} × ${opened.height}`, ...of, signal: signalOf(of) }
    }));
  }

  /** How far the mean is over the sky, in σ of the noise. */
  const signalOf = ({ mean, sky, noise }: PlaneStatistics): number => (noise > 0 ? (mean - sky) / noise : 0);
  const shown = (key: string, value: unknown): string =>
    typeof value !== 'number'
      ? String(value)
      : SHARES.includes(key)
        ? told(100 * value, 4)
        : key === 'exposure'
          ? value > 0
            ? told(value, 0)
            : ''
          : told(value, 2);

  /** The table as text, a line a row; what other programs might take for a formula stays text. */
  const asText = (delimiter: string): string =>
    Papa.unparse(
      {
        fields: HEADERS.map(([, title]) => title),
        data: rows.map((row) =>
          HEADERS.map(([key]) => {
            const text = shown(key, row[key]).replace('−', '-');
            return typeof row[key] === 'number' && text !== '' ? Number(text) : text;
          })
        )
      },
      { delimiter, newline: '\n', escapeFormulae: true }
    ) + '\n';

  async function copy(): Promise<void> {
    try {
      await navigator.clipboard.writeText(asText('\t'));
      copied = { done: true };
    } catch {
      copied = { done: false };
    }
  }

  function save(): void {
    const name = `${session.document.name.replace(/[\\/:*?"<>|]/g, '_')} frames.csv`;
    saveFile(name, new Blob([asText(',')], { type: 'text/csv' }));
    session.notice = `“${name}” is among your browser’s downloads.`;
    open = false;
  }
</script>

<Modal
  bind:open
  size="lg"
  class="frames-panel"
  modalHeading="Frames"
  primaryButtonText="Save as CSV"
  secondaryButtons={[{ text: 'Copy as text', disabled: !measured }]}
  primaryButtonDisabled={!measured}
  hasScrollingContent
  on:click:button--secondary={() => void copy()}
  on:submit={save}
>
  <div class="mono">
    <DataTable
      size="compact"
      sortable
      headers={HEADERS.map(([key, value]) => ({ key, value }))}
      rows={[...rows]}
    >
      <svelte:fragment slot="cell" let:cell>
        {@const text = shown(cell.key, cell.value)}
        {#if cell.key === 'name'}<span title={text}>{text}</span>{:else}{text}{/if}
      </svelte:fragment>
    </DataTable>
  </div>
  <p class="quiet" role="status">
    {#each problems as problem, i (i)}<span class="warn">{problem}</span><br />{/each}
    {#key copied}
      {#if doing}{doing}{:else if copied?.done}<span>The table is on the clipboard.</span
        >{:else if copied}<span class="warn"
          >The browser did not let the table onto the clipboard. Save it as CSV instead.</span
        >{:else if rows.length}{rows.length === 1 ? '1 row' : `${rows.length} rows`}. Values are those of the
        frames at full size, before any step.{/if}
    {/key}
  </p>
</Modal>

<style>
  /* All columns are seen at once on a screen of 1280 pixels. */
  :global(.frames-panel .bx--modal-container) {
    width: 96%;
  }
  div :global(td),
  div :global(th),
  div :global(.bx--table-sort) {
    padding-right: 6px;
    padding-left: 6px;
    white-space: nowrap;
  }
  div :global(th[aria-sort]) {
    padding: 0;
  }
  /* A long name leaves room for the numbers, which stand under each other. */
  span[title] {
    display: block;
    max-width: 22ch;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  div :global(td:nth-child(n + 5)) {
    text-align: right;
  }
  div :global(th:nth-child(n + 5) .bx--table-sort) {
    justify-content: flex-end;
  }
  div :global(.bx--table-sort svg) {
    width: 12px;
    min-width: 12px;
    margin: 0;
  }
  p {
    margin: 8px 0 0;
    font-size: 12px;
  }
</style>
