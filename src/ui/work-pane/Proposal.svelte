<script lang="ts">
  import type { Snippet } from 'svelte';

  interface Props {
    label: string;
    ontake: () => void;
    ondismiss: () => void;
    children: Snippet;
  }
  let { label, ontake, ondismiss, children }: Props = $props();
</script>

<!-- Something found that is seen on the picture until it is taken or dismissed. -->
<div class="proposal" role="region" aria-label={label}>
  {@render children()}
  <div class="choice">
    <button class="tool raised" onclick={ontake}>Take</button>
    <button class="tool raised" onclick={ondismiss}>Dismiss</button>
  </div>
</div>

<style>
  .proposal {
    padding: 8px 12px;
    border-bottom: 1px solid var(--k-line);
    background: #242320;
    font-size: 12px;
  }
  .choice {
    display: flex;
    gap: 6px;
    margin-top: 8px;
  }
</style>
