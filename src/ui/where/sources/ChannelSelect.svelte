<script lang="ts">
  import { Select, SelectItem } from 'carbon-components-svelte';
  import { channelOf, channels } from '$core/colour';

  interface Props {
    source: { channel: string };
    set: (label: string, change: (source: { channel: string }) => void) => void;
  }
  let { source, set }: Props = $props();
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
