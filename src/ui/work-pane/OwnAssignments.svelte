<script lang="ts">
  import TrashCan from 'carbon-icons-svelte/lib/TrashCan.svelte';
  import { isComposed } from '$core/heads';
  import { assigned, changeParts } from '../bench/composing';
  import { assignmentOf, ownAssignments as own } from '../bench/own-assignments.svelte';
  import type { Session } from '../bench/session.svelte';
  import NameField from '../shell/NameField.svelte';

  let { session }: { session: Session } = $props();

  const head = $derived(session.cursor.picture.head);
  let naming = $state(false);
  let problem = $state('');

  function keep(name: string | null): void {
    naming = false;
    if (name && isComposed(head)) problem = own.keep(assignmentOf(name, head, session.document.pictures));
  }
</script>

<div class="row" role="group" aria-label="Own assignments">
  {#each own.all as one (one.title)}
    {@const made = assigned(session.document.pictures, one)}
    <span class="own">
      <button
        class="tool raised"
        disabled={!made}
        title={made
          ? `The weights that were kept as ${one.title}`
          : 'Its filters are not all among the pictures, by their names'}
        onclick={() => made && changeParts(session, `Assign ${one.title}`, () => made)}>{one.title}</button
      ><button
        class="tool raised"
        aria-label={`Forget ${one.title}`}
        title="Forget it"
        onclick={() => (problem = own.remove(one.title))}><TrashCan size={16} /></button
      >
    </span>
  {/each}
  {#if naming}
    <span class="name"
      ><NameField label="Name of the assignment" value={session.cursor.picture.name} ondone={keep} /></span
    >
  {:else}
    <button
      class="tool"
      title="Keep these weights under a name, for pictures of the same filters"
      onclick={() => (naming = true)}>Keep these weights …</button
    >
  {/if}
</div>
{#if problem}<p class="warn" role="alert">{problem}</p>{/if}

<style>
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
  }
  .own {
    display: inline-flex;
    gap: 1px;
    max-width: 100%;
  }
  .own button:first-child {
    max-width: 170px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .name {
    width: 170px;
    height: 26px;
  }
  p {
    margin: 0;
    font-size: 12px;
  }
</style>
