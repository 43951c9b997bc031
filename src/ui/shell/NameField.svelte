<script lang="ts">
  import { onMount } from 'svelte';
  import { LONGEST_NAME } from '$core/document';

  interface Props {
    /** What is named, for those who do not see it. */
    label: string;
    value: string;
    /** What stands there where it has no name of its own. */
    placeholder?: string;
    /** @param name null where it stays as it was */
    ondone: (name: string | null) => void;
  }
  let { label, value, placeholder, ondone }: Props = $props();

  let field: HTMLInputElement;
  let open = true;
  onMount(() => field.select());

  function done(name: string | null): void {
    if (!open) return;
    open = false;
    ondone(name);
  }
</script>

<input
  bind:this={field}
  aria-label={label}
  maxlength={LONGEST_NAME}
  {placeholder}
  {value}
  onblur={() => done(field.value.trim())}
  onkeydown={(event) => {
    if (event.key === 'Enter') done(field.value.trim());
    if (event.key === 'Escape') done(null);
  }}
/>

<style>
  input {
    width: 100%;
    height: 100%;
    padding: 0 8px;
    border: 0;
    background: #111;
    color: var(--k-text);
    font: inherit;
  }
</style>
