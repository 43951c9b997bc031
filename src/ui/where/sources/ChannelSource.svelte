<script lang="ts">
  import { Select, SelectItem } from 'carbon-components-svelte';
  import { channelOf, channels } from '$core/colour';
  import ReferenceSelect from '../ReferenceSelect.svelte';
  import type { SourceProps } from './controls';

  let { source, set, session }: SourceProps<'channel'> = $props();
</script>

<Select
  size="sm"
  labelText="Channel"
  selected={source.channel}
  on:update={({ detail }) => {
    const id = String(detail);
    if (id !== source.channel) set(`Mask from ${channelOf(id).name}`, (s) => (s.channel = id));
  }}
>
  {#each channels as c (c.id)}<SelectItem value={c.id} text={`${c.sign} · ${c.name}`} />{/each}
</Select>
<ReferenceSelect
  {session}
  label="Of"
  own="this step’s input"
  value={source.of ?? null}
  onchange={(of) =>
    set('Mask from another picture', (s) => {
      if (of) s.of = of;
      else delete s.of;
    })}
/>
