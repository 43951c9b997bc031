<script lang="ts">
  import { Select, SelectItem } from 'carbon-components-svelte';
  import { MOST_LAYERS } from '$core/spatial/a-trous';
  import ChannelSelect from './ChannelSelect.svelte';
  import type { SourceProps } from './controls';
  import OfPicture from './OfPicture.svelte';

  let { source, set, session }: SourceProps<'scale'> = $props();
</script>

<Select
  size="sm"
  labelText="Size"
  selected={String(source.layer)}
  on:update={({ detail }) => {
    const layer = Number(detail);
    if (layer !== source.layer) set('Mask from another size', (s) => (s.layer = layer));
  }}
>
  {#each { length: MOST_LAYERS }, layer (layer)}<SelectItem
      value={String(layer)}
      text={`about ${2 ** layer} px`}
    />{/each}
</Select>
<ChannelSelect {source} {set} />
<OfPicture {session} {source} {set} />
<p class="quiet">
  What is lighter than its surroundings at this size is over the middle, what is darker below: the curve
  chooses. Zoomed out further than this size, all of it is the middle.
</p>

<style>
  p {
    margin: 6px 0;
    font-size: 12px;
  }
</style>
