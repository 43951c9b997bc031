<script lang="ts">
  import { Toggle } from 'carbon-components-svelte';

  interface Props {
    label: string;
    on: boolean;
    onchange: (on: boolean) => void;
  }
  let { label, on, onchange }: Props = $props();
</script>

<Toggle
  size="sm"
  hideLabel
  labelText={label}
  labelA={label}
  labelB={label}
  toggled={on}
  on:toggle={({ detail }) => {
    if (detail.toggled !== on) onchange(detail.toggled);
  }}
/>
