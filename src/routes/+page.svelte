<script lang="ts">
  import LightTable from '$ui/light-table/LightTable.svelte';
</script>

<svelte:head><title>Kromba</title></svelte:head>
<LightTable />
