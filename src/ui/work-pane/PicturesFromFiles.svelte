<script lang="ts">
  import type { BenchState } from '../bench/bench.svelte';

  let { bench, title, label }: { bench: BenchState; title: string; label: string } = $props();

  let problem = $state('');
  let picker: HTMLInputElement | undefined = $state();

  async function add(): Promise<void> {
    const files = [...(picker?.files ?? [])];
    if (files.length === 0) return;
    problem = await bench.addFrames(files);
    if (picker) picker.value = '';
  }
</script>

<button class="tool raised" onclick={() => picker?.click()}>{title}</button>
<input
  bind:this={picker}
  type="file"
  multiple
  accept=".png,.jpg,.jpeg,.tif,.tiff"
  aria-label={label}
  hidden
  onchange={() => void add()}
/>
{#if problem}<p role="alert">{problem}</p>{/if}

<style>
  button {
    width: 100%;
    margin-top: 6px;
  }
  p {
    margin: 6px 0;
    color: var(--k-warn);
    font-size: 12px;
  }
</style>
