<script lang="ts">
  import { Modal, RadioButton, RadioButtonGroup, TextArea, TextInput } from 'carbon-components-svelte';
  import { LONGEST_NAME, lookOf } from '$core/document';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    open: boolean;
  }
  let { session, bench, open = $bindable() }: Props = $props();

  let name = $state('');
  let note = $state('');
  let which = $state<'chosen' | 'path'>('path');
  const path = $derived(session.cursor.picture.steps);
  const chosen = $derived(bench.chosen);
  $effect(() => {
    if (!open) return;
    name = session.cursor.picture.name.slice(0, LONGEST_NAME);
    note = '';
    which = chosen.length > 0 ? 'chosen' : 'path';
  });

  const trimmed = $derived(name.trim());
  const travelling = $derived(
    open
      ? lookOf(session.document, which === 'chosen' ? chosen : path, {
          name: trimmed || 'Look',
          note: note.trim()
        })
      : null
  );
  const empty = $derived(travelling?.look.steps.length === 0);

  function keep(): void {
    if (!travelling || !trimmed || empty) return;
    const { look } = travelling;
    open = false;
    void bench.shelf.save(session, look);
  }
</script>

<Modal
  bind:open
  size="sm"
  modalHeading="Keep a look"
  primaryButtonText="Keep"
  secondaryButtonText="Cancel"
  primaryButtonDisabled={!trimmed || empty}
  selectorPrimaryFocus="#look-name"
  on:click:button--secondary={() => (open = false)}
  on:submit={keep}
>
  <div class="fields">
    <TextInput
      id="look-name"
      labelText="Name"
      bind:value={name}
      invalid={!trimmed || trimmed.length > LONGEST_NAME}
      invalidText={`A name has 1 to ${LONGEST_NAME} letters`}
    />
    <TextArea id="look-note" labelText="Note" rows={2} bind:value={note} maxlength={2000} />
    {#if chosen.length > 0}
      <RadioButtonGroup legendText="What is kept" bind:selected={which}>
        <RadioButton
          value="chosen"
          labelText={chosen.length > 1 ? `The ${chosen.length} chosen steps` : 'The selected step'}
        />
        <RadioButton value="path" labelText="The whole path" />
      </RadioButtonGroup>
    {/if}
    {#if empty}
      <p class="warn">Nothing of it travels: there is no look to keep.</p>
    {/if}
    {#each travelling?.told ?? [] as text (text)}<p class="quiet">{text}</p>{/each}
  </div>
</Modal>

<style>
  .fields {
    display: flex;
    flex-direction: column;
    gap: 16px;
  }
  p {
    margin: 0;
    font-size: 12px;
  }
</style>
