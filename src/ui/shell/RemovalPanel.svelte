<script lang="ts">
  import { Modal, Select, SelectItem } from 'carbon-components-svelte';
  import type { BenchState } from '../bench/bench.svelte';

  let { bench }: { bench: BenchState } = $props();

  const { removal } = $derived(bench);
  let chosen = $state('0');
  $effect(() => {
    if (removal) chosen = '0';
  });

  function replace(): void {
    const asked = removal;
    bench.removal = null;
    asked?.replace(asked.instead[Number(chosen)].by);
  }
</script>

<Modal
  open={removal !== null}
  size="sm"
  danger
  modalHeading={`Remove ${removal?.what ?? ''}?`}
  primaryButtonText="Remove and replace"
  secondaryButtonText="Keep it"
  on:click:button--secondary={() => (bench.removal = null)}
  on:submit={replace}
  on:close={() => (bench.removal = null)}
>
  {#if removal}
    <p>It is used by:</p>
    <ul>
      {#each removal.users as user (user)}<li>{user}</li>{/each}
    </ul>
    <Select labelText="They use instead" bind:selected={chosen}>
      {#each removal.instead as { title }, i (title)}<SelectItem value={String(i)} text={title} />{/each}
    </Select>
  {/if}
</Modal>

<style>
  p {
    margin: 0;
  }
  ul {
    margin: 4px 0 16px;
    padding-left: 18px;
    list-style: disc;
  }
</style>
