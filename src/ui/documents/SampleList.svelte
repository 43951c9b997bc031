<script lang="ts" module>
  export interface Sample {
    id: string;
    title: string;
    note: string;
    files: string[];
    small: string;
  }
</script>

<script lang="ts">
  import SmallPicture from './SmallPicture.svelte';

  interface Props {
    samples: readonly Sample[];
    disabled: boolean;
    onchoose: (sample: Sample) => void;
  }
  let { samples, disabled, onchoose }: Props = $props();

  async function read(small: string): Promise<Blob | null> {
    const answer = await fetch(`/samples/${small}`);
    return answer.ok ? answer.blob() : null;
  }
</script>

<section class="samples" aria-label="Samples">
  <h2>Samples from Skerry Kiln</h2>
  <div>
    {#each samples as sample (sample.id)}
      <button {disabled} onclick={() => onchoose(sample)}>
        <span class="picture"><SmallPicture id={sample.small} {read} none="no picture of it here" /></span>
        <b>{sample.title}</b>
        <span class="note">{sample.note}</span>
      </button>
    {/each}
  </div>
</section>

<style>
  .samples {
    padding: 8px 24px;
  }
  h2 {
    margin: 0 0 12px;
    font-weight: 600;
    color: var(--k-text-quiet);
    font-size: 13px;
  }
  .samples > div {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(260px, 1fr));
    gap: 20px;
  }
  .samples button {
    display: flex;
    flex-direction: column;
    gap: 4px;
    padding: 0 0 12px;
    border: 1px solid var(--k-line);
    background: var(--k-surface);
    color: inherit;
    font: inherit;
    text-align: left;
    cursor: pointer;
  }
  .samples button:hover:not(:disabled) {
    border-color: var(--k-bone-dim);
    background: var(--k-raised);
  }
  .samples button:disabled {
    opacity: 0.6;
    cursor: default;
  }
  .picture {
    width: 100%;
    aspect-ratio: 3 / 2;
    margin-bottom: 8px;
    background: #262626;
  }
  .samples b,
  .samples .note {
    padding: 0 14px;
  }
  .samples b {
    font-weight: 600;
  }
  .samples .note {
    color: var(--k-text-quiet);
  }
</style>
