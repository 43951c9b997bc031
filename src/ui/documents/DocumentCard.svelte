<script lang="ts">
  import { OverflowMenu, OverflowMenuItem } from 'carbon-components-svelte';
  import type { Library, StoredDocument } from '$storage/library';
  import { parseDocument } from '$core/document';
  import { exportDocument } from '../export-document';
  import { tabs } from '../services';
  import NameField from '../shell/NameField.svelte';
  import SmallPicture from './SmallPicture.svelte';

  interface Props {
    stored: StoredDocument;
    /** Counts its changes: with each, the small picture is read anew. */
    changes: number;
    library: Library | null;
    onrename: (name: string) => void;
    onduplicate: () => void;
    onremove: () => void;
    onproblem: (text: string) => void;
  }
  let { stored, changes, library, onrename, onduplicate, onremove, onproblem }: Props = $props();

  const read = $derived.by(() => {
    const from = library;
    return (id: string) => from?.thumbnail(id) ?? Promise.resolve(null);
  });

  let renaming = $state(false);

  const name = $derived(stored.document.name);
  const changed = $derived(
    new Date(stored.modifiedAt).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })
  );

  function renamed(wanted: string | null): void {
    renaming = false;
    if (wanted && wanted !== name) onrename(wanted);
  }

  async function exportIt(): Promise<void> {
    if (!library) return;
    try {
      // What another tab has not written yet belongs to it.
      await tabs.through(stored.id, { what: 'flush' }, () => Promise.resolve());
      const found = (await library.load(stored.id))?.stored ?? stored;
      // An earlier version may have written it.
      const document = parseDocument(found.document);
      const files = new Map<string, Blob>();
      for (const { id, file } of [...document.frames, ...document.tables]) {
        const kept = await library.file(found.files[id]);
        if (!kept) throw new Error(`The file “${file}” is missing from this browser’s storage.`);
        files.set(id, kept);
      }
      await exportDocument({ document, files });
    } catch (error) {
      onproblem((error as Error).message);
    }
  }
</script>

<li>
  <a href={`/work/${stored.id}`} aria-label={`Open ${name}`}>
    <SmallPicture id={stored.id} {read} {changes} none="no picture yet" />
  </a>
  <div class="caption">
    {#if renaming}
      <span class="rename"><NameField label="Name of the document" value={name} ondone={renamed} /></span>
    {:else}
      <div class="words">
        <b title={name}>{name}</b>
        <span class="quiet">{changed}</span>
      </div>
    {/if}
    <OverflowMenu flipped aria-label={`What to do with ${name}`}>
      <OverflowMenuItem text="Rename" on:click={() => (renaming = true)} />
      <OverflowMenuItem text="Duplicate" on:click={onduplicate} />
      <OverflowMenuItem text="Export document" on:click={() => void exportIt()} />
      <OverflowMenuItem danger text="Delete" on:click={onremove} />
    </OverflowMenu>
  </div>
</li>

<style>
  li {
    background: var(--k-surface);
  }
  li {
    position: relative;
  }
  /* The whole card opens it; what can be done with it lies above. */
  a::after {
    position: absolute;
    inset: 0;
    content: '';
  }
  .caption :global(.bx--overflow-menu),
  .rename {
    position: relative;
    z-index: 1;
  }
  a {
    display: grid;
    grid-template: 100% / 100%;
    aspect-ratio: 3 / 2;
    background: #262626;
    text-decoration: none;
  }
  li:hover {
    outline: 2px solid var(--k-bone-dim);
  }
  .caption {
    display: flex;
    align-items: center;
    height: 52px;
    padding-left: 12px;
  }
  .words {
    display: flex;
    flex: 1;
    flex-direction: column;
    min-width: 0;
  }
  b {
    overflow: hidden;
    font-weight: 600;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .words span {
    font-size: 12px;
  }
  .rename {
    flex: 1;
    height: 32px;
  }
</style>
