<script lang="ts">
  import StarFilled from 'carbon-icons-svelte/lib/StarFilled.svelte';
  import { tick } from 'svelte';
  import type { Picture } from '$core/document';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import { movePicture, renamePicture } from '../bench/versions';
  import NameField from './NameField.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    picture: Picture;
    /** Its name is being written. */
    renaming: boolean;
  }
  let { session, bench, picture, renaming = $bindable() }: Props = $props();

  function renamed(name: string | null): void {
    renaming = false;
    if (name !== null) renamePicture(session, picture.id, name);
  }

  function onkeydown(event: KeyboardEvent): void {
    const by = event.altKey ? ({ ArrowLeft: -1, ArrowRight: 1 } as const)[event.key] : undefined;
    const beside = event.key === 'b' && !event.altKey && !event.ctrlKey && !event.metaKey;
    if (!by && !beside) return;
    event.preventDefault();
    event.stopPropagation();
    if (!by) return bench.compare.add({ picture: picture.id, at: 'end' });
    movePicture(session, picture.id, by);
    // Where it stands now, so that the next press moves it on.
    void tick().then(() => document.querySelector<HTMLElement>(`[data-picture="${picture.id}"]`)?.focus());
  }
</script>

{#if renaming}
  <span class="rename"><NameField label="Name of the picture" value={picture.name} ondone={renamed} /></span>
{:else}
  <button
    class="picture"
    data-picture={picture.id}
    aria-pressed={session.cursor.picture.id === picture.id}
    aria-busy={session.opening === picture.id}
    title={`${picture.name}. Drag, or Alt with an arrow, to move it; drag it onto Out, or press B, to see it beside; double-click to rename; Page Up and Page Down go from picture to picture.`}
    onclick={() => void session.showPicture(picture.id)}
    ondblclick={() => (renaming = true)}
    {onkeydown}
    ><span class="name">{picture.name}</span>{#if picture.favourite}<StarFilled
        size={16}
        aria-label="favourite"
      />{/if}</button
  >
{/if}

<style>
  .picture {
    display: flex;
    align-items: center;
    gap: 6px;
    min-width: 40px;
    max-width: 170px;
    height: 28px;
    padding: 0 10px;
    border: 0;
    background: #242424;
    color: var(--k-text-quiet);
    font: inherit;
    cursor: pointer;
  }
  .name {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .picture :global(svg) {
    flex: none;
    width: 12px;
    height: 12px;
    fill: var(--k-bone);
  }
  .picture[aria-busy='true'] {
    color: var(--k-bone);
    font-style: italic;
  }
  .picture:hover {
    color: var(--k-text);
  }
  .picture[aria-pressed='true'] {
    background: #3a3a3a;
    box-shadow: inset 0 -2px var(--k-bone);
    color: var(--k-text);
  }
  .rename {
    width: 150px;
    height: 28px;
  }
</style>
