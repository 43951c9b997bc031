<script lang="ts">
  import { Button } from 'carbon-components-svelte';
  import { daysLeft, KEPT_DAYS } from '$storage/kept';
  import type { StoredDocument } from '$storage/library';

  interface Props {
    documents: readonly StoredDocument[];
    onback: (stored: StoredDocument) => void;
    onend: (documents: StoredDocument[]) => void;
  }
  let { documents, onback, onend }: Props = $props();

  function left({ deletedAt }: StoredDocument): string {
    const days = daysLeft(deletedAt!, Date.now());
    return days === 0 ? 'ends today' : days === 1 ? '1 day left' : `${days} days left`;
  }
</script>

<details>
  <summary>Deleted <span class="quiet">{documents.length}</span></summary>
  <div class="head">
    <p class="quiet">Deleted documents stay here for {KEPT_DAYS} days.</p>
    <Button kind="danger-ghost" size="small" on:click={() => onend([...documents])}
      >Delete all for good</Button
    >
  </div>
  <ul aria-label="Deleted documents">
    {#each documents as stored (stored.id)}
      <li>
        <span class="name" title={stored.document.name}>{stored.document.name}</span>
        <span class="quiet mono">{left(stored)}</span>
        <Button kind="ghost" size="small" on:click={() => onback(stored)}>Put back</Button>
        <Button kind="danger-ghost" size="small" on:click={() => onend([stored])}>Delete for good</Button>
      </li>
    {/each}
  </ul>
</details>

<style>
  details {
    padding: 0 24px 24px;
  }
  summary {
    width: max-content;
    padding: 8px 0;
    cursor: pointer;
    font-weight: 600;
  }
  .head {
    display: flex;
    align-items: center;
    justify-content: space-between;
    max-width: 760px;
  }
  ul {
    max-width: 760px;
    margin: 0;
    padding: 0;
    list-style: none;
  }
  li {
    display: grid;
    align-items: center;
    grid-template-columns: minmax(0, 1fr) max-content max-content max-content;
    gap: 12px;
    padding-left: 12px;
    background: var(--k-surface);
    border-bottom: 1px solid var(--k-line);
  }
  .name {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .mono {
    font-size: 12px;
  }
</style>
