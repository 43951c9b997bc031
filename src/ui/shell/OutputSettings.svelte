<script lang="ts" module>
  import type { SpaceId } from '$core/colour/output';
  import type { FileFormat } from '$core/files';
  import { METADATA_CHOICES, type MetadataChoice } from '$core/files/metadata';
  import type { SampleType } from '$core/raster/frame';
  import type { RenderSettings } from '$engine/render-file';

  /** What a file that is to be written is chosen to be. */
  export interface Output {
    format: FileFormat['id'];
    depth: SampleType;
    quality: number;
    space: SpaceId;
    dither: boolean;
    metadata: MetadataChoice;
    history: boolean;
    keepRange: boolean;
    /** Pixels along the longer side; 0 for full size. */
    longerSide: number;
  }

  export const usualOutput = (): Output => ({
    ...{ format: 'png', depth: 'u16', quality: 92, space: 'srgb' },
    ...{ dither: true, metadata: 'keep', history: false, keepRange: false, longerSide: 0 }
  });

  /** The same for the engine. */
  export const settingsOf = ({ dither, keepRange, longerSide, ...chosen }: Output): RenderSettings => ({
    ...chosen,
    dither: chosen.depth === 'u8' && dither,
    keepRange: chosen.depth === 'f32' && keepRange,
    longerSide: longerSide || undefined
  });
</script>

<script lang="ts">
  import {
    Checkbox,
    NumberInput,
    RadioButton,
    RadioButtonGroup,
    Select,
    SelectItem
  } from 'carbon-components-svelte';
  import { spaceOf } from '$core/colour/output';
  import { fileFormats } from '$core/files';

  interface Props {
    chosen: Output;
    /** Sizes below this are offered. */
    largest: number;
    /** The quality is none. */
    bad: boolean;
  }
  let { chosen = $bindable(), largest, bad = $bindable() }: Props = $props();

  const KEPT: Record<MetadataChoice, string> = {
    keep: 'As they came',
    'no-place': 'Without place and camera',
    none: 'None'
  };
  const SIZES = [0, 4096, 2048, 1024];
  const depthTold = (of: SampleType, { deepBits = 16 }: FileFormat): string =>
    ({ u8: '8 bit', u16: `${deepBits} bit`, f32: '32-bit float' })[of];

  const format = $derived(fileFormats.find((f) => f.id === chosen.format)!);
  $effect(() => {
    bad = format.quality !== null && !(chosen.quality >= 1 && chosen.quality <= 100);
  });
  // What another format can't say is not kept.
  $effect(() => {
    if (!format.depths.includes(chosen.depth)) chosen.depth = format.depths[0];
    if (!format.spaces.includes(chosen.space)) chosen.space = format.spaces[0];
    if (format.id === 'fits') chosen.keepRange = true;
  });
</script>

<div class="two">
  <Select labelText="Format" bind:selected={chosen.format}>
    {#each fileFormats as f (f.id)}<SelectItem value={f.id} text={f.title} />{/each}
  </Select>
  <Select labelText="Depth" bind:selected={chosen.depth}>
    {#each format.depths as d (d)}<SelectItem value={d} text={depthTold(d, format)} />{/each}
  </Select>
</div>
<div class="two">
  <Select
    labelText="Size"
    selected={String(chosen.longerSide)}
    on:update={({ detail }) => (chosen.longerSide = Number(detail))}
  >
    {#each SIZES.filter((s) => s < largest) as s (s)}
      <SelectItem value={String(s)} text={s === 0 ? 'Full size' : `At most ${s} px`} />
    {/each}
  </Select>
  {#if format.quality !== null}
    <NumberInput
      labelText={format.quality === 'lossless' ? 'Quality (at 100 nothing is lost)' : 'Quality'}
      min={1}
      max={100}
      bind:value={chosen.quality}
      invalidText="1 to 100"
    />
  {:else if chosen.depth === 'f32'}
    <RadioButtonGroup
      legendText="Values outside 0–100 %"
      selected={chosen.keepRange ? 'yes' : 'no'}
      on:change={({ detail }) => (chosen.keepRange = detail === 'yes')}
    >
      <RadioButton value="no" labelText="Clamp" />
      <RadioButton value="yes" labelText="Keep" />
    </RadioButtonGroup>
  {/if}
</div>
{#if format.spaces.length > 1 || chosen.depth === 'u8'}
  <div class="two long">
    {#if format.spaces.length > 1}
      <Select labelText="Colour space" bind:selected={chosen.space}>
        {#each format.spaces as s (s)}<SelectItem value={s} text={spaceOf(s).title} />{/each}
      </Select>
    {/if}
    {#if chosen.depth === 'u8'}
      <div class="low">
        <Checkbox labelText="Dither, against bands in gradients" bind:checked={chosen.dither} />
      </div>
    {/if}
  </div>
{/if}
{#if format.metadata}
  <div class="two long">
    <Select labelText="Metadata (EXIF, IPTC, XMP)" bind:selected={chosen.metadata}>
      {#each METADATA_CHOICES as kept (kept)}<SelectItem value={kept} text={KEPT[kept]} />{/each}
    </Select>
    {#if chosen.metadata !== 'none'}
      <div class="low">
        <Checkbox labelText="Write what was done into it" bind:checked={chosen.history} />
      </div>
    {/if}
  </div>
{/if}

<style>
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 16px;
  }
  /* What spaces are called needs all of a narrow place. */
  @container (max-width: 400px) {
    .long {
      grid-template-columns: 1fr;
      gap: 8px;
    }
  }
  .two > :global(:only-child) {
    grid-column: 1 / -1;
  }
  .low {
    align-self: end;
    padding-bottom: 8px;
  }
</style>
