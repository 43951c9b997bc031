<script lang="ts">
  import DocumentsPage from '$ui/documents/DocumentsPage.svelte';
</script>

<svelte:head><title>Kromba</title></svelte:head>
<DocumentsPage />
