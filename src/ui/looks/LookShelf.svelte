<script lang="ts">
  import { tick } from 'svelte';
  import Close from 'carbon-icons-svelte/lib/Close.svelte';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import { droppedFiles } from '../shell/dropped-files';
  import { keepFocus } from '../shell/focus';
  import { saveFile } from '../shell/save-file';
  import Amount from '../work-pane/Amount.svelte';
  import Dialog from '../shell/Dialog.svelte';
  import Notice from '../shell/Notice.svelte';
  import LookCard from './LookCard.svelte';
  import PutOnPictures from './PutOnPictures.svelte';
  import type { ShelfLook } from './shelf.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    /** Asks what is to be kept as a look. */
    onsave: () => void;
  }
  let { session, bench, onsave }: Props = $props();
  const { shelf } = $derived(bench);

  let picker: HTMLInputElement;
  /** What was done, and how to take it back. */
  let told = $state('');
  let undo = $state<(() => Promise<void>) | null>(null);

  function tell(text: string, back: (() => Promise<void>) | null = null): void {
    told = text;
    undo = back;
  }

  async function exportLooks(looks: readonly ShelfLook[]): Promise<void> {
    try {
      const { name, content } = await shelf.pack(looks);
      saveFile(name, content);
      tell(`“${name}” is among your browser’s downloads.`);
    } catch (error) {
      shelf.problem = (error as Error).message;
    }
  }

  async function take(files: readonly File[]): Promise<void> {
    if (files.length > 0) tell(await shelf.take(files));
  }

  /** Folders bring what else lies in them: that is left without a word. */
  async function takeDropped(dropped: Promise<readonly File[]>): Promise<void> {
    const files = await dropped;
    const looks = files.filter(({ name }) => /\.(json|zip|cube)$/i.test(name));
    if (looks.length > 0) return take(looks);
    shelf.problem = 'None of these files is a look, a zip of looks or a .cube table. Nothing was taken.';
  }

  $effect(() => shelf.follow());

  async function remove(one: ShelfLook): Promise<void> {
    await shelf.remove(one);
    tell(`“${one.look.name}” was deleted.`, () => shelf.putBack());
  }

  /** A look that is to go on several pictures, while it is asked which. */
  let puttingOn = $state.raw<ShelfLook | null>(null);

  /** A table is made of a look as it stands on the picture. */
  async function bakeIt(one: ShelfLook): Promise<void> {
    if (!shelf.isWorn(session, one)) await shelf.putOn(session, one);
    const group = shelf.isWorn(session, one) ? shelf.wornOn(session) : null;
    await tick();
    if (group) bench.baking = [group];
    else if (!shelf.problem) tell(`“${one.look.name}” only moves pixels: no table can do that.`);
  }

  const worn = $derived(shelf.wornOn(session) === null ? null : shelf.wornLook);

  /** There may be hundreds of looks: they are drawn anew when what they are seen on has not changed for so long, in ms. */
  const PATIENCE = 350;
  let rested = $state.raw({});
  let begun = false;
  $effect(() => {
    const { picture, head } = session.cursor;
    void [session.document, picture, head, shelf.strength];
    if (!begun) return void (begun = true);
    const timer = setTimeout(() => (rested = {}), PATIENCE);
    return () => clearTimeout(timer);
  });
  const mine = $derived(shelf.looks.filter(({ own }) => !own));
</script>

<section
  class="shelf"
  aria-label="Looks"
  {@attach keepFocus}
  ondrop={(event) => {
    if (!event.dataTransfer?.types.includes('Files')) return;
    event.preventDefault();
    void takeDropped(droppedFiles(event));
  }}
>
  <div class="bar">
    <input
      class="search"
      type="search"
      aria-label="Search the looks"
      placeholder="Search"
      bind:value={shelf.wanted}
    />
    <span class="strength">
      <Amount
        label="strength"
        name="Strength of a look"
        value={shelf.strength}
        neutral={100}
        min={0}
        max={100}
        oninput={(v) => (shelf.strength = v)}
      />
    </span>
    <button class="tool raised" disabled={worn === null} onclick={() => shelf.takeOff(session)}
      >Take off</button
    >
    <button
      class="tool raised"
      disabled={session.cursor.picture.steps.length === 0}
      title="Keep the chosen steps, or the path, as a look"
      onclick={onsave}>Keep a look …</button
    >
    <button
      class="tool raised"
      title="Looks, zips of looks, and .cube tables; files and folders can be dropped here as well"
      onclick={() => picker.click()}>From files …</button
    >
    <button class="tool raised" disabled={mine.length === 0} onclick={() => void exportLooks(mine)}
      >Export mine</button
    >
    <input
      bind:this={picker}
      type="file"
      multiple
      accept=".json,.zip,.cube"
      aria-label="Files of looks"
      hidden
      onchange={() => {
        const files = [...(picker.files ?? [])];
        picker.value = '';
        void take(files);
      }}
    />
    <span class="told" role="status">
      {#if told}{told}
        {#if undo}<button
            class="tool raised"
            onclick={() => {
              void undo?.();
              tell('');
            }}>Put it back</button
          >{/if}{/if}
    </span>
    <button
      class="tool"
      aria-label="Close the looks"
      title="Close the looks (L)"
      onclick={() => (shelf.open = false)}><Close size={16} /></button
    >
  </div>
  {#if shelf.problem}
    <div class="problem">
      <Notice kind="error" title="Not done." text={shelf.problem} onclose={() => (shelf.problem = '')} />
    </div>
  {/if}
  <ul class="row" aria-label="Looks on the shelf">
    {#each shelf.found as one (one.id)}
      <LookCard
        {session}
        {shelf}
        {one}
        {rested}
        worn={worn === one.id}
        onexport={() => void exportLooks([one])}
        onremove={() => void remove(one)}
        onpictures={() => (puttingOn = one)}
        onbake={() => void bakeIt(one)}
      />
    {:else}
      <li class="quiet">No look is called so, and no note speaks of it.</li>
    {/each}
  </ul>
</section>

<Dialog open={puttingOn !== null}>
  <PutOnPictures {session} {shelf} bind:look={puttingOn} />
</Dialog>

<style>
  .shelf {
    background: var(--k-surface);
    border-bottom: 1px solid var(--k-line);
  }
  .bar {
    display: flex;
    align-items: center;
    gap: 6px;
    height: 34px;
    padding: 0 12px;
  }
  .search {
    width: 150px;
    height: 26px;
    padding: 0 8px;
    border: 0;
    background: #2e2e2e;
    color: var(--k-text);
    font: inherit;
  }
  .strength {
    width: 250px;
  }
  .told {
    overflow: hidden;
    flex: 1;
    min-width: 0;
    font-size: 12px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  /* However long it is, it can be read to its end. */
  .problem {
    overflow-y: auto;
    max-height: 96px;
    overflow-wrap: anywhere;
  }
  .problem :global(.bx--inline-notification) {
    max-width: none;
    margin: 0;
  }
  .row {
    display: flex;
    gap: 6px;
    height: 118px;
    overflow-x: auto;
    overflow-y: hidden;
    margin: 0;
    padding: 2px 12px 10px;
    list-style: none;
    scrollbar-width: thin;
    scrollbar-color: #555 transparent;
  }
</style>
