<script lang="ts">
  import { page } from '$app/state';
  import Bench from '$ui/bench/Bench.svelte';
</script>

{#key page.params.id}
  <Bench id={page.params.id ?? ''} />
{/key}
