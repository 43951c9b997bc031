<script lang="ts">
  import { paramsOf } from '$core/ops/op';
  import { type LayParams, lay as op } from '$core/ops/lay';
  import { IMAGE_FILES } from '../file-kinds';
  import ReferenceSelect from '../where/ReferenceSelect.svelte';
  import Opacity from './Opacity.svelte';
  import type { PanelProps } from './panels';
  import FilesButton from './FilesButton.svelte';
  import ShiftAmounts from './ShiftAmounts.svelte';

  let { session, bench, step }: PanelProps = $props();

  const params = $derived(paramsOf(op, step));
  const others = $derived(session.document.pictures.length > 1);

  function set(label: string, recipe: (params: LayParams) => void, gesture?: string): void {
    session.changeParams(op, label, recipe, gesture);
  }
</script>

<div class="panel">
  <ReferenceSelect
    {session}
    label="Picture on top"
    own={others ? 'choose one' : 'none in this document yet'}
    value={params.from}
    onchange={(from) => set('Lay another picture on', (p) => (p.from = from))}
  />
  <FilesButton
    title="Add pictures from files …"
    label="Files of pictures"
    accept={IMAGE_FILES}
    onfiles={(files) => bench.addFrames(files)}
  />
  <h3>Strength</h3>
  <Opacity {session} {step} />
  <p class="quiet">
    {#if !params.from}Choose the picture to lay on: it is of this one’s size.
    {:else}How it joins is set by the mode, under Blend; where it shows, under Limits and Where.{/if}
  </p>
  <h3>Shift</h3>
  <ShiftAmounts
    shift={params.shift}
    max={200}
    most={20000}
    onset={(i, v) => set('Shift', (p) => (p.shift[i] = v), `shift ${i}`)}
    onend={() => session.endGesture()}
  />
</div>

<style>
  h3 {
    margin: 12px 0 4px;
    font-weight: 600;
    font-size: 13px;
  }
  p {
    margin: 6px 0;
    font-size: 12px;
  }
</style>
