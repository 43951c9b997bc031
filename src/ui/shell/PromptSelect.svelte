<script lang="ts">
  import { Select, SelectItem } from 'carbon-components-svelte';
  import { tick } from 'svelte';

  interface Props {
    label: string;
    items: readonly { readonly id: string; readonly title: string; readonly disabled?: boolean }[];
    onchoose: (id: string) => void;
  }
  let { label, items, onchoose }: Props = $props();

  /** Stands at its prompt again once something was chosen: what was added stands elsewhere. */
  let chosen = $state('');
</script>

<Select
  size="sm"
  hideLabel
  labelText={label}
  bind:selected={chosen}
  on:update={({ detail }) => {
    if (!detail) return;
    onchoose(String(detail));
    void tick().then(() => (chosen = ''));
  }}
>
  <SelectItem value="" text={`${label} …`} />
  {#each items as { id, title, disabled } (id)}<SelectItem value={id} text={title} {disabled} />{/each}
</Select>
