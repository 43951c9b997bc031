<script lang="ts">
  /** What is dragged over the table: how it would be opened if it were let go here. */
  let { several, right }: { several: boolean; right: boolean } = $props();
</script>

<div class="drop" class:several aria-hidden="true">
  {#if several}
    <span class:chosen={!right}>Drop here: a document for each</span>
    <span class:chosen={right}>Drop here: exposures of one scene, one document</span>
  {:else}Drop to open{/if}
</div>

<style>
  .drop {
    position: fixed;
    inset: 8px;
    display: grid;
    place-content: center;
    border: 2px dashed var(--k-bone);
    background: rgb(20 20 20 / 70%);
    font-size: 20px;
    pointer-events: none;
  }
  .drop.several {
    grid-template-columns: 1fr 1fr;
    place-content: stretch;
  }
  .drop.several span {
    display: grid;
    place-content: center;
  }
  .drop .chosen {
    background: rgb(227 217 195 / 22%);
  }
</style>
