<script lang="ts">
  import ManyPage from '$ui/many/ManyPage.svelte';
</script>

<svelte:head><title>Many files · Kromba</title></svelte:head>
<ManyPage />
