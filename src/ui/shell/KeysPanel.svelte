<script lang="ts">
  import { Modal } from 'carbon-components-svelte';
  import { keyList } from '../bench/keys';

  let { open = $bindable() }: { open: boolean } = $props();
</script>

<Modal passiveModal hasScrollingContent size="sm" bind:open modalHeading="Keys">
  <dl>
    {#each keyList as [keys, does] (keys)}
      <div>
        <dt class="mono">{keys}</dt>
        <dd>{does}</dd>
      </div>
    {/each}
  </dl>
</Modal>

<style>
  div {
    display: flex;
    gap: 16px;
    padding: 5px 0;
    border-bottom: 1px solid var(--k-line);
  }
  dt {
    flex: none;
    width: 160px;
    color: var(--k-bone);
  }
  dd {
    margin: 0;
  }
</style>
