<script lang="ts">
  import { headFrame } from '$core/document';
  import type { Session } from '../bench/session.svelte';
  import { bytesTold } from '../numbers';

  let { session }: { session: Session } = $props();

  const SAMPLES = { u8: '8-bit integers', u16: '16-bit integers', f32: '32-bit floats' };
  const LAYOUTS = { grey: 'grey', rgb: 'RGB', cmyk: 'CMYK inks' };
  const frame = $derived(session.opened.frame);
  const file = $derived(headFrame(session.document, session.picture));
  const rows = $derived([
    ['File', file.file],
    ['Size', `${frame.width} × ${frame.height} pixels`],
    ['Megapixels', ((frame.width * frame.height) / 1e6).toFixed(1)],
    ['Channels', LAYOUTS[frame.layout] + (frame.alpha ? ' with alpha' : '')],
    ['Samples', SAMPLES[frame.sampleType]],
    ['On disk', bytesTold(session.opened.bytes)],
    ...(frame.missing ? [['Missing samples', String(frame.missing)]] : [])
  ]);
</script>

<header class="pane-header"><span class="pane-title">Work</span><span>Source</span></header>
<dl>
  {#each rows as [name, value] (name)}
    <div>
      <dt>{name}</dt>
      <dd class:mono={name !== 'File'}>{value}</dd>
    </div>
  {/each}
</dl>
{#each session.opened.notices as notice (notice)}<p class="notice">{notice}</p>{/each}
<p class="quiet">The frame is never changed. Choose a step in the path to work on it.</p>

<style>
  dl {
    margin: 12px;
  }
  dl div {
    display: flex;
    gap: 12px;
    padding: 5px 0;
    border-bottom: 1px solid #2a2a2a;
  }
  dt {
    flex: none;
    width: 108px;
    color: var(--k-text-quiet);
  }
  dd {
    min-width: 0;
    margin: 0;
    overflow-wrap: anywhere;
  }
  p {
    margin: 4px 12px;
  }
  .notice {
    color: var(--k-warn);
  }
</style>
