<script lang="ts">
  interface Props {
    title: string;
    /** Names the field to screen readers. */
    label: string;
    /** Which files, as a file dialog is told of them. */
    accept: string;
    multiple?: boolean;
    /** @returns why they are not taken, in words for a person, or nothing */
    onfiles: (files: readonly File[]) => Promise<string>;
  }
  let { title, label, accept, multiple = true, onfiles }: Props = $props();

  let problem = $state('');
  let picker: HTMLInputElement | undefined = $state();

  async function take(): Promise<void> {
    const files = [...(picker?.files ?? [])];
    if (files.length === 0) return;
    problem = await onfiles(files);
    if (picker) picker.value = '';
  }
</script>

<button class="tool raised" onclick={() => picker?.click()}>{title}</button>
<input
  bind:this={picker}
  type="file"
  {multiple}
  {accept}
  aria-label={label}
  hidden
  onchange={() => void take()}
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
