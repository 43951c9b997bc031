<script lang="ts">
  import { RadioButton, RadioButtonGroup } from 'carbon-components-svelte';
  import type { Encoding } from '$core/colour';
  import type { BenchState } from '../bench/bench.svelte';
  import { begin, jobs, type Job } from '../bench/first-steps';
  import AverageParts from './AverageParts.svelte';
  import ComposeGrid from './ComposeGrid.svelte';
  import FilePart from './FilePart.svelte';
  import FitsPart from './FitsPart.svelte';
  import { goToFirstNumber } from './first-number';
  import type { Session } from '../bench/session.svelte';
  import { bytesTold } from '../numbers';

  let { session, bench }: { session: Session; bench: BenchState } = $props();

  function start(job: Job, byKey: boolean): void {
    begin(session, bench, job);
    // By key, the first number is the next thing that is wanted; a mask begins on its wall.
    if (byKey && !job.where) void goToFirstNumber();
  }

  const SAMPLES = { u8: '8-bit integers', u16: '16-bit integers', f32: '32-bit floats' };
  const LAYOUTS = { grey: 'grey', rgb: 'RGB', cmyk: 'CMYK inks' };
  const head = $derived(session.cursor.head);
  const sizes = $derived([
    ['Size', `${head.width} × ${head.height} pixels`],
    ['Megapixels', ((head.width * head.height) / 1e6).toFixed(1)]
  ]);
  const files = $derived(
    session.cursor.headFrames.map(({ frame: { id, file, encoding }, opened: { frame, bytes, notices } }) => ({
      ...{ id, encoding, notices, file, fits: frame.fits, pages: frame.fits ?? frame.pages },
      rows: [
        ['File', file],
        ...sizes,
        ['Channels', LAYOUTS[frame.layout] + (frame.alpha ? ' with alpha' : '')],
        ['Samples', SAMPLES[frame.sampleType]],
        ['On disk', bytesTold(bytes)],
        ...(frame.missing ? [['Missing samples', String(frame.missing)]] : [])
      ]
    }))
  );
  /** The pictures that it is made of, where it is made of others. */
  const parts = $derived([...new Set(session.cursor.source.head.pictures.map(({ name }) => name))]);

  const ENCODINGS: readonly { id: Encoding; title: string }[] = [
    { id: 'coded', title: 'As sRGB is coded' },
    { id: 'linear', title: 'Proportional to light' }
  ];
  const MEANS: Record<Encoding, string> = {
    coded: 'The values are sRGB, as in most photographs.',
    linear:
      'The values are linear, and every step works on them so. On the screen, and in all files but FITS and 32-bit TIFF, the picture is encoded.'
  };

  function read(id: string, encoding: Encoding): void {
    session.change(encoding === 'linear' ? 'Read values as light' : 'Read values as sRGB', (draft) => {
      const found = draft.frames.find((f) => f.id === id);
      if (found) found.encoding = encoding;
    });
  }
</script>

<header class="pane-header"><span class="pane-title">Work</span><span>Source</span></header>
<div class="scroll">
  <ComposeGrid {session} />
  <AverageParts {session} />
  {#if session.cursor.picture.steps.length === 0}
    <h3>Begin with</h3>
    <ul aria-label="Ways to begin">
      {#each jobs as job (job.title)}
        <li>
          <button onclick={(event) => start(job, event.detail === 0)}
            ><b>{job.title}</b><span>{job.purpose}</span></button
          >
        </li>
      {/each}
    </ul>
    <p class="quiet">Or add any step with <b>+</b> in the path, or the key A. The frame is never changed.</p>
  {:else}
    <p class="quiet">The frame is never changed. Choose a step in the path to work on it.</p>
  {/if}
  {#each files as { id, encoding, notices, rows, file, fits, pages } (id)}
    <dl class="facts">
      {#each rows as [name, value] (name)}
        <div>
          <dt>{name}</dt>
          <dd class:mono={name !== 'File'}>{value}</dd>
        </div>
      {/each}
    </dl>
    {#if pages && pages.parts.length > 1}<FilePart {session} {id} {pages} />{/if}
    {#if fits}<FitsPart {session} {id} {file} {fits} />{/if}
    <div class="read">
      <RadioButtonGroup
        legendText="What the values stand for"
        orientation="vertical"
        selected={encoding}
        on:change={({ detail }) => {
          if (detail !== encoding) read(id, detail as Encoding);
        }}
      >
        {#each ENCODINGS as { id: value, title } (value)}<RadioButton {value} labelText={title} />{/each}
      </RadioButtonGroup>
    </div>
    <p class="quiet means">{MEANS[encoding]}</p>
    {#each notices as notice (notice)}<p class="notice">{notice}</p>{/each}
  {:else}
    <dl class="facts">
      <div>
        <dt>Made of</dt>
        <dd>{parts.join(', ')}</dd>
      </div>
      {#each sizes as [name, value] (name)}
        <div>
          <dt>{name}</dt>
          <dd class="mono">{value}</dd>
        </div>
      {/each}
    </dl>
  {/each}
</div>

<style>
  p {
    margin: 4px 12px;
  }
  .scroll {
    flex: 1;
    min-height: 0;
    overflow-y: auto;
    scrollbar-width: thin;
    scrollbar-color: #555 transparent;
  }
  h3 {
    margin: 14px 12px 6px;
    font-weight: 600;
    font-size: 13px;
  }
  ul {
    margin: 0 12px 8px;
    padding: 0;
    list-style: none;
  }
  li button {
    display: flex;
    flex-direction: column;
    width: 100%;
    margin-bottom: 3px;
    padding: 4px 10px 5px;
    border: 0;
    background: var(--k-raised);
    color: inherit;
    font: inherit;
    text-align: left;
    cursor: pointer;
  }
  li button:hover {
    background: #3a3a3a;
  }
  li span {
    color: var(--k-text-quiet);
    font-size: 12px;
  }
  .read {
    margin: 8px 12px 0;
  }
  .notice {
    color: var(--k-warn);
  }
</style>
