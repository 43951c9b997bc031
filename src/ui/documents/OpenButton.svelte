<script lang="ts">
  import { Button } from 'carbon-components-svelte';
  import type { ComponentProps, Snippet } from 'svelte';

  interface Props {
    /** What the files are, for those who hear the page. */
    label: string;
    accept: string;
    title?: string;
    kind?: 'primary' | 'ghost';
    icon: ComponentProps<Button>['icon'];
    disabled: boolean;
    onopen: (files: readonly File[]) => void;
    children: Snippet;
  }
  let { label, accept, title, kind = 'primary', icon, disabled, onopen, children }: Props = $props();
  let picker: HTMLInputElement;
</script>

<Button size="small" {kind} {icon} {title} {disabled} on:click={() => picker.click()}
  >{@render children()}</Button
>
<input
  bind:this={picker}
  class="visually-hidden"
  type="file"
  multiple
  tabindex="-1"
  aria-label={label}
  {accept}
  onchange={(event) => {
    const files = [...(event.currentTarget.files ?? [])];
    event.currentTarget.value = '';
    onopen(files);
  }}
/>
