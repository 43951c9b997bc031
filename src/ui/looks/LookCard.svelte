<script lang="ts">
  import { OverflowMenu, OverflowMenuItem } from 'carbon-components-svelte';
  import Star from 'carbon-icons-svelte/lib/Star.svelte';
  import StarFilled from 'carbon-icons-svelte/lib/StarFilled.svelte';
  import { untrack } from 'svelte';
  import { pictureGeometry } from '$core/path/plan';
  import type { Session } from '../bench/session.svelte';
  import NameField from '../shell/NameField.svelte';
  import PictureView from '../viewer/PictureView.svelte';
  import type { Shown } from '../viewer/shown';
  import { Viewport } from '../viewer/viewport.svelte';
  import type { OpenedTables, Shelf, ShelfLook } from './shelf.svelte';

  interface Props {
    session: Session;
    shelf: Shelf;
    one: ShelfLook;
    /** It is put on. */
    worn: boolean;
    /** Another object whenever what it is seen on has changed, and rests. */
    rested: object;
    onexport: () => void;
    onremove: () => void;
    onpictures: () => void;
    onbake: () => void;
  }
  let { session, shelf, one, worn, rested, onexport, onremove, onpictures, onbake }: Props = $props();

  /** Behind all else. */
  const PRIORITY = 9;

  const viewport = new Viewport();
  let place: HTMLElement;
  let seen = $state(false);
  let tables = $state.raw<OpenedTables | null>(null);
  let shown = $state.raw<Shown | null>(null);
  let problem = $state('');

  // There may be hundreds: only what is in sight is computed.
  $effect(() => {
    const observer = new IntersectionObserver(([entry]) => (seen = entry.isIntersecting), {
      rootMargin: '0px 160px'
    });
    observer.observe(place);
    return () => observer.disconnect();
  });
  $effect(() => {
    if (!seen || tables) return;
    shelf.tablesOf(one).then(
      (opened) => (tables = opened),
      (error: Error) => (problem = error.message)
    );
  });

  $effect(() => {
    void [rested, one];
    if (!seen || !tables) return;
    const opened = tables;
    // One after another, so that no task is long.
    const timer = setTimeout(() => untrack(() => renew(opened)));
    return () => clearTimeout(timer);
  });

  function renew(opened: OpenedTables): void {
    const source = shelf.suppose(session, one, opened);
    problem = source ? '' : 'It can’t be put on this picture.';
    if (!source) return void (shown = null);
    const { head } = session.cursor;
    const geometry = pictureGeometry(head, source.steps);
    viewport.picture = geometry;
    shown = { ...source, at: 'end', hold: null, levels: head.levels, geometry, view: 'colour' };
  }

  const favourite = $derived(shelf.isFavourite(one));
  let renaming = $state(false);

  function renamed(name: string | null): void {
    renaming = false;
    if (name !== null && name !== one.look.name) void shelf.rename(one, name);
  }
</script>

<li class="card" class:worn bind:this={place}>
  <button
    class="wear"
    aria-pressed={worn}
    title={[`Put on “${one.look.name}”`, one.look.note].filter(Boolean).join('. ')}
    onclick={() => void shelf.putOn(session, one)}
  >
    <span class="picture">
      {#if shown}<PictureView {shown} {viewport} role="small" label="" priority={PRIORITY} delay={200} />
      {:else if problem}<span class="problem">{problem}</span>{/if}
    </span>
    {#if !renaming}<span class="name">{one.look.name}</span>{/if}
  </button>
  <span class="tools">
    <button
      class="star"
      aria-pressed={favourite}
      aria-label={`${one.look.name}: favourite`}
      title={favourite ? 'No favourite any more' : 'A favourite: it stands first'}
      onclick={() => shelf.toggleFavourite(one)}
      >{#if favourite}<StarFilled size={16} />{:else}<Star size={16} />{/if}</button
    >
    <OverflowMenu portalMenu size="sm" flipped aria-label={`What to do with ${one.look.name}`}>
      <OverflowMenuItem
        text="Put on pictures …"
        disabled={session.document.pictures.length < 2}
        on:click={onpictures}
      />
      <OverflowMenuItem text="Make a LUT of it …" on:click={onbake} />
      <OverflowMenuItem text="Rename" disabled={one.own} on:click={() => (renaming = true)} />
      <OverflowMenuItem text="Duplicate" on:click={() => void shelf.duplicate(one)} />
      <OverflowMenuItem text="Export as a file" on:click={onexport} />
      <OverflowMenuItem hasDivider danger text="Delete" disabled={one.own} on:click={onremove} />
    </OverflowMenu>
  </span>
  {#if renaming}
    <span class="rename"><NameField label="Name of the look" value={one.look.name} ondone={renamed} /></span>
  {/if}
</li>

<style>
  .card {
    position: relative;
    flex: none;
    width: 132px;
    height: 104px;
    background: var(--k-raised);
    /* What is out of sight costs nothing while something else is drawn. */
    content-visibility: auto;
    contain-intrinsic-size: 132px 104px;
  }
  .worn {
    box-shadow: inset 0 0 0 2px var(--k-bone);
  }
  .wear {
    display: flex;
    flex-direction: column;
    width: 100%;
    height: 100%;
    padding: 4px 4px 0;
    border: 0;
    background: none;
    color: inherit;
    font: inherit;
    text-align: left;
    cursor: pointer;
  }
  .picture {
    display: block;
    flex: none;
    height: 76px;
    background: var(--k-stage);
  }
  .picture :global(canvas) {
    pointer-events: none;
  }
  .problem {
    display: block;
    overflow: hidden;
    height: 100%;
    padding: 6px;
    color: var(--k-warn);
    font-size: 11px;
  }
  .name {
    overflow: hidden;
    padding: 3px 3px 0;
    font-size: 12px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .rename {
    position: absolute;
    right: 4px;
    bottom: 2px;
    left: 4px;
    height: 20px;
    font-size: 12px;
  }
  /* Over the picture only while the card is in use, so that the picture can be judged. */
  .tools {
    position: absolute;
    top: 4px;
    right: 4px;
    display: flex;
    background: rgb(20 20 20 / 80%);
    opacity: 0;
  }
  .card:hover .tools,
  .card:focus-within .tools {
    opacity: 1;
  }
  .star {
    display: grid;
    place-content: center;
    width: 26px;
    height: 26px;
    padding: 0;
    border: 0;
    background: none;
    color: var(--k-bone);
    cursor: pointer;
  }
  .tools :global(.bx--overflow-menu) {
    width: 26px;
    height: 26px;
  }
</style>
