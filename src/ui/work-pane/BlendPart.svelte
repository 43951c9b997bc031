<script lang="ts">
  import { Select, SelectItem } from 'carbon-components-svelte';
  import { blendModes, type BlendMode } from '$core/blend/modes';
  import Opacity from './Opacity.svelte';
  import type { PanelProps } from './panels';

  let { session, step }: Pick<PanelProps, 'session' | 'step'> = $props();

  const title = (mode: string): string => mode[0].toUpperCase() + mode.slice(1).replace('-', ' ');
</script>

<Select
  size="sm"
  labelText="Mode"
  selected={step.blend.mode}
  on:update={({ detail }) => {
    const mode = detail as BlendMode;
    if (mode !== step.blend.mode)
      session.changeStep(`Blend by ${mode}`, (draft) => (draft.blend.mode = mode));
  }}
>
  {#each blendModes as mode (mode)}<SelectItem value={mode} text={title(mode)} />{/each}
</Select>
<div class="space"></div>
<Opacity {session} {step} />

<style>
  .space {
    height: 8px;
  }
</style>
