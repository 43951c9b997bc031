<script lang="ts">
  import { Select, SelectItem } from 'carbon-components-svelte';
  import type { SourceProps } from './controls';

  let { source, set, session }: SourceProps<'mask'> = $props();
</script>

<Select
  size="sm"
  labelText="Named mask"
  selected={source.id}
  on:update={({ detail }) => {
    const id = String(detail);
    if (id !== source.id) set('Another named mask', (s) => (s.id = id));
  }}
>
  {#each session.document.masks as { id, name } (id)}<SelectItem value={id} text={name} />{/each}
</Select>
