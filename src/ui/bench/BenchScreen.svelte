<script lang="ts">
  import { Pane, PaneGroup, PaneResizer } from 'paneforge';
  import { tick, untrack } from 'svelte';
  import { tinykeys } from 'tinykeys';
  import { modelOf } from '$core/colour';
  import { toFrame } from '$core/raster/geometry';
  import { actsOn, stepsAsText, type Step } from '$core/document';
  import ExportPanel from '../shell/ExportPanel.svelte';
  import Header from '../shell/Header.svelte';
  import KeysPanel from '../shell/KeysPanel.svelte';
  import LeavePanel from '../shell/LeavePanel.svelte';
  import Notice from '../shell/Notice.svelte';
  import PresenceBanner from '../shell/PresenceBanner.svelte';
  import RemovalPanel from '../shell/RemovalPanel.svelte';
  import TroubleBanner from '../shell/TroubleBanner.svelte';
  import SaveProblem from '../shell/SaveProblem.svelte';
  import StatusLine from '../shell/StatusLine.svelte';
  import KeepLook from '../looks/KeepLook.svelte';
  import LookShelf from '../looks/LookShelf.svelte';
  import InPane from '../in-pane/InPane.svelte';
  import Instruments from '../instruments/Instruments.svelte';
  import OutPane from '../out-pane/OutPane.svelte';
  import Path from '../path/Path.svelte';
  import { provideAskedFirst } from '../viewer/asked-first.svelte';
  import type { Spot } from '../viewer/spot';
  import WorkPane from '../work-pane/WorkPane.svelte';
  import { BenchState } from './bench.svelte';
  import { provideBracket } from './bracket.svelte';
  import { provideLift } from './lift.svelte';
  import { clipboardSteps, keepOnClipboard } from './clipboard';
  import { bindings, type Commands } from './keys';
  import { surrounds } from './layout.svelte';
  import { goToFirstNumber } from '../work-pane/first-number';
  import { dropPin } from './pins';
  import { stepRemoval } from './removal';
  import type { Session } from './session.svelte';
  import { longWork } from '../long-work.svelte';
  import { trouble } from './trouble.svelte';
  import { droppedFiles } from '../shell/dropped-files';
  import Dialog from '../shell/Dialog.svelte';
  import { groupSteps, pasteSteps, shownSteps, takeApart, toggleStep } from './steps';
  import { duplicatePicture } from './versions';

  let { session }: { session: Session } = $props();

  provideAskedFirst();
  const bench = new BenchState(untrack(() => session));
  const { viewport, layout, reader, measurer, bracket } = bench;
  provideBracket(bracket);
  provideLift(bench.lift);
  $effect(() => bench.lift.follow());
  /** Widths to begin with, in CSS pixels: what a wider window has more goes to the picture. */
  const share = (pixels: number): number => (100 * pixels) / window.innerWidth;
  const inShare = share(Math.min(400, Math.max(280, window.innerWidth * 0.2)));
  const workShare = share(322);
  const instrumentShare = (100 * 204) / Math.max(400, window.innerHeight - 152);
  let exporting = $state(false);
  /** What was exported last, in words, until it is closed. */
  let exported = $state('');
  let showingKeys = $state(false);
  let adding = $state(false);
  let problem = $state('');
  let computed = $state<number | null>(null);

  $effect(() => {
    void trouble.round;
    void longWork.round;
    reader.point(bench.measured);
    measurer.point(bench.measured);
  });
  $effect(() => () => trouble.again());
  $effect(() => {
    if (trouble.round > 0) untrack(() => longWork.again());
  });

  // The channel that is looked at follows the step: the first of its On.
  $effect(() => {
    const { stepId } = session.cursor;
    untrack(() => {
      bench.proposal = null;
      bench.rangeEnd = null;
      bracket.end();
      bench.baking = null;
      if (!bench.hand.painting || !session.cursor.step?.where) bench.hand.drop();
      bench.masks.place = { kind: 'step' };
      bench.masks.termAt = 0;
      bench.masks.live = null;
      bench.masks.forget();
      if (!session.cursor.step?.where && bench.part === 'where') bench.part = null;
      const step = session.cursor.step;
      if (!step || stepId === null) return;
      const { model, channels } = actsOn(step);
      const first = modelOf(model).channels.find((c) => channels.includes(c.letter));
      if (first && channels.length < modelOf(model).channels.length) bench.channel = first.id;
    });
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
    foldInstruments() {
      if (layout.anyInstrument) layout.set({ instruments: [] });
      else layout.set({ instruments: ['histogram', 'pins'] });
    },
    step: (direction) => {
      const ids = [null, ...shownSteps(session.cursor.picture.steps, bench.isUnfolded).map((s) => s.id)];
      const next = ids.indexOf(session.cursor.stepId) + direction;
      if (next >= 0 && next < ids.length) session.select(ids[next]);
    },
    original: (held) => (bench.original = held),
    grey: () => (bench.grey = !bench.grey),
    addStep: () => (adding = true),
    dropPin() {
      // Without a pointer over the picture, in the middle of what is seen of it: the arrows then move the pin.
      const { placement } = viewport;
      const middle = { onFrame: toFrame(session.cursor.at('end').geometry, placement) };
      const byPointer = reader.spot !== null;
      bench.pin = dropPin(session, reader.spot ?? middle);
      if (!byPointer)
        void tick().then(() => document.querySelector<HTMLElement>(`[data-pin="${bench.pin}"]`)?.focus());
      if (!layout.shows('pins')) layout.toggleInstrument('pins');
    },
    removeStep() {
      if (session.cursor.step) bench.removal = stepRemoval(session, session.cursor.step);
    },
    toggleStep: () => session.cursor.step && toggleStep(session, session.cursor.step),
    group() {
      if (session.cursor.step?.op === 'group' && bench.chosen.length === 1)
        takeApart(session, session.cursor.step);
      else groupSteps(session, bench.chosen);
    },
    duplicatePicture: () => duplicatePicture(session),
    picture: (direction) => {
      const { pictures } = session.document;
      const next = pictures[pictures.indexOf(session.cursor.picture) + direction];
      if (next) void session.showPicture(next.id);
    },
    looks: () => openShelf(!bench.shelf.open),
    lift: () => bench.lift.can && bench.lift.next(),
    beside: () => bench.compare.add(),
    nextPlace: () => bench.compare.next(),
    nextWay: () => bench.compare.several && bench.compare.nextWay(),
    brush() {
      if (!session.cursor.step || session.cursor.step.op === 'straighten') return;
      if (bench.part !== 'where') bench.part = 'where';
      bench.hand.paint(!bench.hand.painting);
    },
    brushSize(by) {
      const { brush } = bench.masks;
      brush.size = Math.round(Math.min(4000, Math.max(2, brush.size * (by > 0 ? 1.2 : 1 / 1.2))));
    },
    mask() {
      if (session.cursor.step?.where || bench.masks.mask) {
        bench.part = 'where';
        bench.masks.inOut = !bench.masks.inOut;
      }
    },
    numbers() {
      if (layout.workFolded) layout.set({ workFolded: false });
      if (bench.part === 'where') bench.part = null;
      void goToFirstNumber();
    },
    end() {
      bench.hand.drop();
      bracket.end();
    }
  };

  function openShelf(open: boolean): void {
    bench.shelf.open = open;
    if (open) void bench.shelf.load();
  }

  const onSpot = (spot: Spot | null): void => reader.move(spot);

  const told = (what: 'seen' | 'settled', duration: number): void =>
    void performance.measure(`kromba:${what}`, { start: performance.now() - duration, duration });

  const onSeen = (milliseconds: number): void => told('seen', milliseconds);

  function onSettled(milliseconds: number): void {
    computed = milliseconds;
    told('settled', milliseconds);
  }

  $effect(() => {
    const { down, up } = bindings(commands);
    const ends = [tinykeys(window, down), tinykeys(window, up, { event: 'keyup' })];
    return () => ends.forEach((end) => end());
  });

  const inField = ({ target }: Event): boolean =>
    target instanceof HTMLElement &&
    target.closest('input:not([type="range"]), textarea, select, [role="dialog"]') !== null;

  function copy(steps: readonly Step[]): string {
    const text = stepsAsText(session.document, session.cursor.picture.name, steps);
    keepOnClipboard(text);
    return text;
  }

  function paste(text: string): void {
    problem = '';
    try {
      pasteSteps(session, text);
    } catch (error) {
      problem = `${(error as Error).message.replace(/\.?$/, '.')} The path is as it was.`;
    }
  }

  function oncopy(event: ClipboardEvent): void {
    if (inField(event) || !session.cursor.step || window.getSelection()?.toString()) return;
    event.preventDefault();
    event.clipboardData?.setData('text/plain', copy(bench.chosen));
  }

  function onpaste(event: ClipboardEvent): void {
    if (inField(event)) return;
    event.preventDefault();
    paste(event.clipboardData?.getData('text/plain') || clipboardSteps());
  }

  function saveNow(): void {
    void session.saving.flush();
  }

  function onbeforeunload(event: BeforeUnloadEvent): void {
    saveNow();
    if (session.saving.state === 'failed' || !session.additions.isIdle) event.preventDefault();
  }
</script>

<svelte:head><title>{session.document.name} · Kromba</title></svelte:head>
<svelte:window {onbeforeunload} onpagehide={saveNow} onblur={() => (bench.original = false)} />
<svelte:document
  onvisibilitychange={saveNow}
  {oncopy}
  {onpaste}
  ondragover={(event) => {
    if (event.dataTransfer?.types.includes('Files')) event.preventDefault();
  }}
  ondrop={(event) => {
    if (!event.dataTransfer?.types.includes('Files') || event.defaultPrevented) return;
    event.preventDefault();
    void droppedFiles(event).then((files) => bench.takeFiles(files));
  }}
/>

<div class="bench" style:--k-stage={surrounds[layout.surround]}>
  <Header {session} {bench} {commands} {layout} original={bench.original} />
  <main>
    <Path
      {session}
      {bench}
      bind:adding
      oncopy={copy}
      onpaste={() => paste(clipboardSteps())}
      onlooks={commands.looks}
    />
    {#if bench.shelf.open}
      <LookShelf {session} {bench} onsave={() => (bench.shelf.keeping = true)} />
    {:else}<span></span>{/if}
    <PaneGroup direction="horizontal" autoSaveId="kromba-panes" class="panes">
      {#if !layout.inFolded}
        <Pane id="in" order={1} defaultSize={inShare} minSize={10}>
          <InPane {session} {bench} {onSpot} />
        </Pane>
        <PaneResizer class="splitter" aria-label="Width of In" />
      {/if}
      {#if !layout.workFolded}
        <Pane id="work" order={2} defaultSize={workShare} minSize={share(290)} maxSize={45}>
          <WorkPane {session} {bench} />
        </Pane>
        <PaneResizer class="splitter" aria-label="Width of Work" />
      {/if}
      <Pane id="out" order={3} defaultSize={100 - inShare - workShare} minSize={20}>
        <PaneGroup direction="vertical" autoSaveId="kromba-instruments">
          <Pane id="picture" order={1} defaultSize={100 - instrumentShare} minSize={30}>
            <OutPane {session} {bench} {onSpot} {onSeen} {onSettled} />
          </Pane>
          {#if layout.anyInstrument}
            <PaneResizer class="splitter across" aria-label="Height of the instruments" />
            <Pane id="instruments" order={2} defaultSize={instrumentShare} minSize={12} maxSize={60}>
              <Instruments {session} {bench} />
            </Pane>
          {/if}
        </PaneGroup>
      </Pane>
    </PaneGroup>
    <div class="problems" aria-live="polite">
      {#if problem}
        <Notice kind="error" title="Nothing was pasted." text={problem} onclose={() => (problem = '')} />
      {/if}
      {#if session.pictureProblem}
        <Notice
          kind="error"
          title="Another picture was asked for."
          text={session.pictureProblem}
          onclose={() => (session.pictureProblem = '')}
        />
      {/if}
      {#if session.refusal}
        <Notice
          kind="error"
          title="Not done."
          text={`${session.refusal}${/[.!?]$/.test(session.refusal) ? '' : '.'} The document is as it was.`}
          onclose={() => (session.refusal = '')}
        />
      {/if}
      {#each session.additions.lasting as addition (addition)}
        <Notice
          kind="info"
          title={addition.what}
          text="Nothing is changed until all of it is read."
          action={{ title: 'Cancel', run: () => addition.cancel() }}
        />
      {/each}
      {#if exported}
        <Notice
          kind="success"
          title="Exported."
          text={exported}
          action={{
            title: 'Export again',
            run: () => {
              exported = '';
              exporting = true;
            }
          }}
          onclose={() => (exported = '')}
        />
      {/if}
      {#if session.notice}
        <Notice kind="info" title="To know." text={session.notice} onclose={() => (session.notice = '')} />
      {/if}
      <TroubleBanner />
      <PresenceBanner presence={session.presence} />
      <SaveProblem {session} />
    </div>
  </main>
  <StatusLine {session} {bench} {computed} />
</div>
<Dialog open={exporting}>
  <ExportPanel {session} lift={bench.lift} bind:open={exporting} ondone={(text) => (exported = text)} />
</Dialog>
<Dialog open={bench.shelf.keeping}>
  <KeepLook {session} {bench} bind:open={bench.shelf.keeping} />
</Dialog>
<Dialog open={showingKeys}><KeysPanel bind:open={showingKeys} /></Dialog>
<Dialog open={bench.removal !== null}><RemovalPanel {bench} /></Dialog>
<LeavePanel {session} />

<style>
  .bench {
    display: grid;
    grid-template-rows: 40px 84px auto 1fr auto 28px;
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
  .bench :global(.splitter.across) {
    width: auto;
    height: 5px;
    cursor: row-resize;
  }
  .bench :global(.splitter:hover),
  .bench :global(.splitter:focus-visible) {
    background: var(--k-bone-dim);
  }
  .problems :global(.bx--inline-notification) {
    max-width: none;
    margin: 0;
  }
</style>
