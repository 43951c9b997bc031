<script lang="ts">
  import { Checkbox, Modal } from 'carbon-components-svelte';
  import { untrack } from 'svelte';
  import type { Session } from '../bench/session.svelte';
  import type { Shelf, ShelfLook } from './shelf.svelte';

  interface Props {
    session: Session;
    shelf: Shelf;
    /** It is asked which pictures this one goes on; null where nothing is asked. */
    look: ShelfLook | null;
  }
  let { session, shelf, look = $bindable() }: Props = $props();

  const { pictures } = $derived(session.document);
  let chosen = $state<string[]>([]);
  let open = $state(false);
  $effect(() => {
    open = look !== null;
    if (look) chosen = untrack(() => pictures.map(({ id }) => id));
  });

  function put(): void {
    if (!look || chosen.length === 0) return;
    const one = look;
    look = null;
    void shelf.putOn(
      session,
      one,
      pictures.flatMap(({ id }) => (chosen.includes(id) ? [id] : []))
    );
  }
</script>

<Modal
  bind:open
  size="xs"
  modalHeading={`Put on “${look?.look.name ?? ''}” at ${shelf.strength} %`}
  primaryButtonText="Put on"
  secondaryButtonText="Cancel"
  primaryButtonDisabled={chosen.length === 0}
  on:click:button--secondary={() => (look = null)}
  on:close={() => (look = null)}
  on:submit={put}
>
  <fieldset>
    <legend>On which pictures</legend>
    {#each pictures as { id, name } (id)}
      <Checkbox bind:group={chosen} value={id} labelText={name} />
    {/each}
  </fieldset>
</Modal>

<style>
  fieldset {
    padding: 0;
    margin: 0;
    border: 0;
  }
  legend {
    padding-bottom: 8px;
    color: var(--k-text-quiet);
    font-size: 12px;
  }
</style>
