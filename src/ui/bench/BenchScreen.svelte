<script lang="ts">
  import { Pane, PaneGroup, PaneResizer } from 'paneforge';
  import { tinykeys } from 'tinykeys';
  import { pool } from '../services';
  import ExportPanel from '../shell/ExportPanel.svelte';
  import Header from '../shell/Header.svelte';
  import KeysPanel from '../shell/KeysPanel.svelte';
  import SaveProblem from '../shell/SaveProblem.svelte';
  import StatusLine from '../shell/StatusLine.svelte';
  import InPane from '../in-pane/InPane.svelte';
  import OutPane from '../out-pane/OutPane.svelte';
  import Path from '../path/Path.svelte';
  import type { Spot } from '../viewer/spot';
  import { Viewport } from '../viewer/viewport.svelte';
  import WorkPane from '../work-pane/WorkPane.svelte';
  import { bindings, type Commands } from './keys';
  import { BenchLayout, surrounds } from './layout.svelte';
  import { Reader } from './reader.svelte';
  import type { Session } from './session.svelte';

  let { session }: { session: Session } = $props();

  const viewport = new Viewport();
  /** Widths to begin with, in CSS pixels: what a wider window has more goes to the picture. */
  const share = (pixels: number): number => (100 * pixels) / window.innerWidth;
  const inShare = share(Math.min(400, Math.max(280, window.innerWidth * 0.2)));
  const workShare = share(322);
  const layout = new BenchLayout();
  const reader = new Reader(pool);
  let inTab = $state<'wall' | 'one' | 'before'>('wall');
  let outTab = $state<'after' | 'end'>('after');
  let channel = $state('rgb.g');
  let original = $state(false);
  let exporting = $state(false);
  let showingKeys = $state(false);
  let computed = $state<number | null>(null);

  $effect(() => {
    viewport.picture = session.opened.frame;
  });
  $effect(() => {
    const after = outTab === 'after' ? session.through : session.active.length;
    reader.point(session.hash, session.active, session.before, after);
  });

  const commands: Commands = {
    undo: () => session.undo(),
    redo: () => session.redo(),
    export: () => (exporting = true),
    keys: () => (showingKeys = !showingKeys),
    fit: () => viewport.showWhole(),
    full: () => viewport.zoomTo(1),
    closer: () => viewport.stepZoom(1),
    further: () => viewport.stepZoom(-1),
    pan: (x, y) => viewport.panBy((-x * viewport.view.width) / 8, (-y * viewport.view.height) / 8),
    foldIn: () => layout.set({ inFolded: !layout.inFolded }),
    foldWork: () => layout.set({ workFolded: !layout.workFolded }),
    step: (direction) => {
      const ids = [null, ...session.picture.steps.map((s) => s.id)];
      const next = ids.indexOf(session.stepId) + direction;
      if (next >= 0 && next < ids.length) session.select(ids[next]);
    },
    original: (held) => (original = held)
  };

  const onSpot = (spot: Spot | null): void => reader.move(spot);

  function onSettled(milliseconds: number): void {
    computed = milliseconds;
    performance.measure('kromba:settled', {
      start: performance.now() - milliseconds,
      duration: milliseconds
    });
  }

  $effect(() => {
    const { down, up } = bindings(commands);
    const ends = [tinykeys(window, down), tinykeys(window, up, { event: 'keyup' })];
    return () => ends.forEach((end) => end());
  });

  function saveNow(): void {
    void session.flush();
  }

  function onbeforeunload(event: BeforeUnloadEvent): void {
    saveNow();
    if (session.saveState === 'failed') event.preventDefault();
  }
</script>

<svelte:head><title>{session.document.name} · Kromba</title></svelte:head>
<svelte:window {onbeforeunload} onpagehide={saveNow} onblur={() => (original = false)} />
<svelte:document onvisibilitychange={saveNow} />

<div class="bench" style:--k-stage={surrounds[layout.surround]}>
  <Header {session} {commands} {layout} {original} />
  <main>
    <Path {session} />
    <PaneGroup direction="horizontal" autoSaveId="kromba-panes" class="panes">
      {#if !layout.inFolded}
        <Pane id="in" order={1} defaultSize={inShare} minSize={10}>
          <InPane {session} {viewport} bind:tab={inTab} bind:channel {onSpot} />
        </Pane>
        <PaneResizer class="splitter" aria-label="Width of In" />
      {/if}
      {#if !layout.workFolded}
        <Pane id="work" order={2} defaultSize={workShare} minSize={share(290)} maxSize={45}>
          <WorkPane {session} />
        </Pane>
        <PaneResizer class="splitter" aria-label="Width of Work" />
      {/if}
      <Pane id="out" order={3} defaultSize={100 - inShare - workShare} minSize={20}>
        <OutPane {session} {viewport} bind:tab={outTab} {original} {onSpot} {onSettled} />
      </Pane>
    </PaneGroup>
    <SaveProblem {session} />
  </main>
  <StatusLine {session} {reader} {viewport} {computed} />
</div>
<ExportPanel {session} bind:open={exporting} />
<KeysPanel bind:open={showingKeys} />

<style>
  .bench {
    display: grid;
    grid-template-rows: 40px 84px 1fr auto 28px;
    grid-template-columns: 100%;
    height: 100vh;
    overflow: hidden;
  }
  main {
    display: contents;
  }
  .bench :global(.panes) {
    min-height: 0;
  }
  .bench :global(.splitter) {
    width: 5px;
    background: #111;
    cursor: col-resize;
  }
  .bench :global(.splitter:hover),
  .bench :global(.splitter:focus-visible) {
    background: var(--k-bone-dim);
  }
</style>
