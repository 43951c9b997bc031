<script lang="ts">
  import { OverflowMenu, OverflowMenuItem } from 'carbon-components-svelte';
  import Add from 'carbon-icons-svelte/lib/Add.svelte';
  import { tick } from 'svelte';
  import type { Session } from '../bench/session.svelte';
  import type { BenchState } from '../bench/bench.svelte';
  import { pictureRemoval } from '../bench/removal';
  import { duplicatePicture, renamePicture } from '../bench/steps';

  let { session, bench }: { session: Session; bench: BenchState } = $props();

  let picker: HTMLInputElement;

  let renaming = $state('');
  let field: HTMLInputElement | undefined = $state();

  function rename(id: string): void {
    renaming = id;
    void tick().then(() => field?.select());
  }

  function renamed(name: string | null): void {
    const id = renaming;
    renaming = '';
    if (id && name !== null) renamePicture(session, id, name);
  }
</script>

<div class="pictures" role="group" aria-label="Pictures">
  {#each session.document.pictures as { id, name } (id)}
    {#if renaming === id}
      <input
        bind:this={field}
        aria-label="Name of the picture"
        value={name}
        onblur={(event) => renamed(event.currentTarget.value)}
        onkeydown={(event) => {
          if (event.key === 'Enter') renamed(event.currentTarget.value);
          if (event.key === 'Escape') renamed(null);
        }}
      />
    {:else}
      <button
        class="picture"
        aria-pressed={session.cursor.picture.id === id}
        aria-busy={session.opening === id}
        title={`${name}. Double-click to rename; Page Up and Page Down go from picture to picture.`}
        onclick={() => void session.showPicture(id)}
        ondblclick={() => rename(id)}>{name}</button
      >
    {/if}
  {/each}
  <button
    class="tool"
    aria-label="Duplicate the picture"
    title="Duplicate this picture: a version with the same path (D)"
    onclick={() => duplicatePicture(session)}><Add size={16} /></button
  >
  <OverflowMenu size="sm" aria-label="What to do with this picture">
    <OverflowMenuItem text="Rename" on:click={() => rename(session.cursor.picture.id)} />
    <OverflowMenuItem text="Duplicate" on:click={() => duplicatePicture(session)} />
    <OverflowMenuItem hasDivider text="Add frames …" on:click={() => picker.click()} />
    <OverflowMenuItem
      hasDivider
      danger
      text="Remove"
      disabled={session.document.pictures.length < 2}
      on:click={() => (bench.removal = pictureRemoval(session, session.cursor.picture.id))}
    />
  </OverflowMenu>
  <input
    bind:this={picker}
    type="file"
    multiple
    accept=".png,.jpg,.jpeg,.tif,.tiff"
    aria-label="Frames to add"
    hidden
    onchange={() => {
      void bench.takeFiles([...(picker.files ?? [])]).then(() => (picker.value = ''));
    }}
  />
</div>

<style>
  .pictures {
    display: flex;
    align-items: center;
    gap: 2px;
    min-width: 0;
    overflow: hidden;
  }
  .picture {
    overflow: hidden;
    flex: 0 1 auto;
    min-width: 40px;
    max-width: 170px;
    height: 28px;
    padding: 0 10px;
    border: 0;
    background: #242424;
    color: var(--k-text-quiet);
    font: inherit;
    text-overflow: ellipsis;
    white-space: nowrap;
    cursor: pointer;
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
  input {
    width: 150px;
    height: 28px;
    padding: 0 8px;
    border: 0;
    background: #111;
    color: var(--k-text);
    font: inherit;
  }
  .pictures :global(.bx--overflow-menu) {
    flex: none;
    width: 28px;
    height: 28px;
  }
</style>
