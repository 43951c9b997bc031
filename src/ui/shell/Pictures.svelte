<script lang="ts">
  import { OverflowMenu, OverflowMenuItem } from 'carbon-components-svelte';
  import Add from 'carbon-icons-svelte/lib/Add.svelte';
  import { dndzone, TRIGGERS, type DndEvent } from 'svelte-dnd-action';
  import { goto } from '$app/navigation';
  import { wholePath, type Picture } from '$core/document';
  import { beginsFrom } from '$core/heads';
  import type { Session } from '../bench/session.svelte';
  import type { BenchState } from '../bench/bench.svelte';
  import { IMAGE_FILES } from '../file-kinds';
  import { averagePictures, composePicture } from '../bench/composing';
  import { pictureRemoval } from '../bench/removal';
  import { duplicatePicture, markFavourite, orderPictures, takeVersionApart } from '../bench/versions';
  import { dragging, DragOrder, type Dragged } from '../drag-order.svelte';
  import { pathId } from '../many/paths';
  import FramesPanel from './FramesPanel.svelte';
  import PictureTab from './PictureTab.svelte';
  import Dialog from './Dialog.svelte';

  let { session, bench }: { session: Session; bench: BenchState } = $props();

  let picker: HTMLInputElement;
  let renaming = $state('');
  let framesOpen = $state(false);
  const shown = $derived(session.cursor.picture);

  const order = new DragOrder(() => session.document.pictures);

  function finalize(event: CustomEvent<DndEvent<Dragged<Picture>>>): void {
    const ids = order.end(event);
    // Where one has left for Out, that takes it.
    if (event.detail.info.trigger !== TRIGGERS.DROPPED_INTO_ZONE) return;
    orderPictures(session, ids);
  }
</script>

<div class="pictures" role="group" aria-label="Pictures">
  <ul use:dndzone={dragging(order.items, 'picture')} onconsider={order.consider} onfinalize={finalize}>
    {#each order.items as item (item.id)}
      {@const picture = item.now()}
      <li>
        <PictureTab
          {session}
          {bench}
          {picture}
          bind:renaming={() => renaming === picture.id, (v) => (renaming = v ? picture.id : '')}
        />
      </li>
    {/each}
  </ul>
  <button
    class="tool"
    aria-label="Duplicate the picture"
    title="Duplicate this picture: a version with the same path (D)"
    onclick={() => duplicatePicture(session)}><Add size={16} /></button
  >
  <OverflowMenu portalMenu size="sm" aria-label="What to do with this picture">
    <OverflowMenuItem text="Rename" on:click={() => (renaming = shown.id)} />
    <OverflowMenuItem
      text={shown.favourite ? 'No favourite any more' : 'Mark as a favourite'}
      on:click={() => markFavourite(session, shown)}
    />
    <OverflowMenuItem
      text="Show beside"
      on:click={() => bench.compare.add({ picture: shown.id, at: 'end' })}
    />
    <OverflowMenuItem text="Duplicate" on:click={() => duplicatePicture(session)} />
    <OverflowMenuItem
      text="Put pictures together"
      disabled={session.document.pictures.length < 2}
      on:click={() => composePicture(session)}
    />
    <OverflowMenuItem
      text="Average pictures"
      disabled={session.document.pictures.filter(({ head }) => head.kind === 'frame').length < 2}
      on:click={() => averagePictures(session)}
    />
    {#if beginsFrom(shown.head)}
      <OverflowMenuItem text="Give it a path of its own" on:click={() => takeVersionApart(session, shown)} />
    {/if}
    <OverflowMenuItem
      hasDivider
      text="Make a LUT of its path …"
      disabled={!shown.steps.some((step) => step.enabled)}
      on:click={() => (bench.baking = shown.steps.filter((step) => step.enabled).map(({ id }) => id))}
    />
    <OverflowMenuItem
      text="Put its path on many files …"
      disabled={wholePath(session.document, shown).length === 0}
      on:click={() => void goto(`/many?path=${encodeURIComponent(pathId(session.id, shown.id))}`)}
    />
    <OverflowMenuItem text="Table of frames …" on:click={() => (framesOpen = true)} />
    <OverflowMenuItem text="Add frames …" on:click={() => picker.click()} />
    <OverflowMenuItem
      hasDivider
      danger
      text="Remove"
      disabled={session.document.pictures.length < 2}
      on:click={() => (bench.removal = pictureRemoval(session, shown.id))}
    />
  </OverflowMenu>
  <input
    bind:this={picker}
    type="file"
    multiple
    accept={IMAGE_FILES}
    aria-label="Frames to add"
    hidden
    onchange={() => {
      void bench.takeFiles([...(picker.files ?? [])]).then(() => (picker.value = ''));
    }}
  />
</div>

<Dialog open={framesOpen}><FramesPanel {session} bind:open={framesOpen} /></Dialog>

<style>
  .pictures {
    display: flex;
    align-items: center;
    gap: 2px;
    min-width: 0;
    overflow: hidden;
  }
  ul {
    display: flex;
    gap: 2px;
    min-width: 0;
    margin: 0;
    padding: 0;
    list-style: none;
  }
  li {
    display: flex;
    flex: 0 1 auto;
    min-width: 40px;
  }
  .pictures :global(.bx--overflow-menu) {
    flex: none;
    width: 28px;
    height: 28px;
  }
</style>
