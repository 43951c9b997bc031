<script lang="ts">
  import ChannelSelect from './ChannelSelect.svelte';
  import type { SourceProps } from './controls';
  import OfPicture from './OfPicture.svelte';

  let { source, set, session }: SourceProps<'channel'> = $props();
</script>

<ChannelSelect {source} {set} />
<OfPicture {session} {source} {set} />
