<script lang="ts">
  import ChartLineSmooth from 'carbon-icons-svelte/lib/ChartLineSmooth.svelte';
  import Contrast from 'carbon-icons-svelte/lib/Contrast.svelte';
  import Help from 'carbon-icons-svelte/lib/Help.svelte';
  import Redo from 'carbon-icons-svelte/lib/Redo.svelte';
  import SidePanelClose from 'carbon-icons-svelte/lib/SidePanelClose.svelte';
  import Undo from 'carbon-icons-svelte/lib/Undo.svelte';
  import View from 'carbon-icons-svelte/lib/View.svelte';
  import { Button } from 'carbon-components-svelte';
  import type { Commands } from '../bench/keys';
  import type { BenchLayout } from '../bench/layout.svelte';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import Pictures from './Pictures.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    commands: Commands;
    layout: BenchLayout;
    original: boolean;
  }
  let { session, bench, commands, layout, original }: Props = $props();

  const NEXT = { dark: 'middle', middle: 'light', light: 'dark' } as const;
  const SURROUND = { dark: 'dark', middle: 'middle grey', light: 'light' };
</script>

<header>
  <a href="/" class="home" title="To all documents">Kromba</a>
  <h1 title={session.document.name}>{session.document.name}</h1>
  <Pictures {session} {bench} />
  <span class="space"></span>
  <button
    class="tool worded"
    aria-pressed={original}
    title="Hold to see the original (hold O)"
    onpointerdown={() => commands.original(true)}
    onpointerup={() => commands.original(false)}
    onpointerleave={() => commands.original(false)}><View size={16} /> Original</button
  >
  <button
    class="tool"
    aria-label="Undo"
    disabled={!session.undoLabel}
    title={session.undoLabel ? `Undo: ${session.undoLabel}` : 'Nothing to undo'}
    onclick={commands.undo}
  >
    <Undo size={20} />
  </button>
  <button
    class="tool"
    aria-label="Redo"
    disabled={!session.redoLabel}
    title={session.redoLabel ? `Redo: ${session.redoLabel}` : 'Nothing to redo'}
    onclick={commands.redo}
  >
    <Redo size={20} />
  </button>
  <span class="line"></span>
  <button
    class="tool"
    aria-pressed={layout.anyInstrument}
    title="Show or fold the instruments (H)"
    onclick={commands.foldInstruments}
  >
    <ChartLineSmooth size={16} /> <span class="words">Instruments</span>
  </button>
  <button
    class="tool worded"
    aria-pressed={!layout.inFolded}
    title="Show or fold In (I)"
    onclick={commands.foldIn}
  >
    <SidePanelClose size={16} /> In
  </button>
  <button
    class="tool worded"
    aria-pressed={!layout.workFolded}
    title="Show or fold Work (W)"
    onclick={commands.foldWork}
  >
    <SidePanelClose size={16} /> Work
  </button>
  <button
    class="tool"
    aria-label="Surround"
    title={`Surround of the picture: ${SURROUND[layout.surround]}`}
    onclick={() => layout.set({ surround: NEXT[layout.surround] })}
  >
    <Contrast size={16} />
  </button>
  <button class="tool" aria-label="Keys" title="Keys (?)" onclick={commands.keys}><Help size={20} /></button>
  <Button size="small" on:click={commands.export}>Export</Button>
</header>

<style>
  header {
    display: flex;
    align-items: center;
    gap: 4px;
    padding-left: 14px;
    background: #161616;
    border-bottom: 1px solid var(--k-line);
  }
  .home {
    margin-right: 14px;
    color: var(--k-bone);
    font-weight: 600;
    font-size: 15px;
    text-decoration: none;
  }
  h1 {
    overflow: hidden;
    flex: 0 1 auto;
    min-width: 60px;
    max-width: 220px;
    margin: 0 12px 0 0;
    font-size: 14px;
    font-weight: 400;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  @media (max-width: 1500px) {
    .words {
      position: absolute;
      width: 1px;
      height: 1px;
      overflow: hidden;
      clip-path: inset(50%);
    }
  }
  /* On a narrow screen the words are enough. */
  @media (max-width: 1200px) {
    .worded :global(svg) {
      display: none;
    }
  }
  .space {
    flex: 1;
  }
  .line {
    width: 1px;
    height: 20px;
    margin: 0 6px;
    background: #444;
  }
  header :global(.bx--btn) {
    height: 39px;
    min-height: 39px;
    margin-left: 6px;
    padding-right: 20px;
    padding-left: 20px;
  }
</style>
