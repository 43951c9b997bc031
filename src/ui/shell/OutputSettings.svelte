<script lang="ts" module>
  import type { Intent, OutputSpace, OwnSpace } from '$core/colour/own';
  import type { Compression, FileFormat } from '$core/files';
  import { METADATA_CHOICES, type MetadataChoice } from '$core/files/metadata';
  import type { SampleType } from '$core/raster/frame';
  import type { RenderSettings } from '$engine/render-file';

  /** What a file that is to be written is chosen to be. */
  export interface Output {
    format: FileFormat['id'];
    depth: SampleType;
    quality: number;
    compression: Compression;
    space: OutputSpace;
    dither: boolean;
    metadata: MetadataChoice;
    history: boolean;
    keepRange: boolean;
    /** Pixels along the longer side; 0 for full size. */
    longerSide: number;
  }

  export const usualOutput = (): Output => ({
    ...{ format: 'png', depth: 'u16', quality: 92, compression: 'deflate', space: 'srgb' },
    ...{ dither: true, metadata: 'keep', history: false, keepRange: false, longerSide: 0 }
  });

  /** The same for the engine. */
  export const settingsOf = ({ dither, keepRange, longerSide, ...chosen }: Output): RenderSettings => ({
    ...chosen,
    // It is handed to workers and kept.
    space: $state.snapshot(chosen.space) as OutputSpace,
    dither: chosen.depth === 'u8' && dither,
    keepRange: chosen.depth === 'f32' && keepRange,
    longerSide: longerSide || undefined
  });

  const INTO: Record<Intent, string> = {
    relative: 'Relative colorimetric',
    perceptual: 'Perceptual'
  };
  /** How colours are brought into a profile, in words. */
  export const intoTold = ({ intent, blackPoint }: OwnSpace): string =>
    `${INTO[intent].toLowerCase()}${blackPoint ? ', black point compensated' : ''}`;
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
  import { SPACE_IDS, spaceOf } from '$core/colour/output';
  import { isOwn } from '$core/colour/own';
  import { COMPRESSIONS, fileFormats } from '$core/files';
  import FilesButton from '../work-pane/FilesButton.svelte';
  import { ownProfiles } from './own-profiles.svelte';

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
  const COMPRESSED: Record<Compression, string> = {
    deflate: 'Deflate: smaller',
    none: 'None: quicker'
  };
  const SIZES = [0, 4096, 2048, 1024];
  const depthTold = (of: SampleType, { deepBits = 16 }: FileFormat): string =>
    ({ u8: '8 bit', u16: `${deepBits} bit`, f32: '32-bit float' })[of];

  const format = $derived(fileFormats.find((f) => f.id === chosen.format)!);
  $effect(() => {
    bad = format.quality !== null && !(chosen.quality >= 1 && chosen.quality <= 100);
  });
  const own = $derived(isOwn(chosen.space) ? chosen.space : null);
  const kept = $derived(own && ownProfiles.list.find(({ key }) => key === own.key));
  let problem = $state('');
  $effect(() => void ownProfiles.load().catch((error: Error) => (problem = error.message)));

  function choose(space: string): void {
    const named = SPACE_IDS.find((id) => id === space);
    const added = ownProfiles.list.find(({ key }) => key === space);
    if (named) chosen.space = named;
    else if (added) {
      const { title, key, profile } = added;
      chosen.space = { title, key, profile, intent: 'relative', blackPoint: true };
    }
  }
  async function add([file]: readonly File[]): Promise<string> {
    problem = '';
    try {
      const { profile: added, told } = await ownProfiles.add(file);
      choose(added.key);
      problem = told;
    } catch (error) {
      problem = (error as Error).message;
    }
    return '';
  }
  async function forget({ key }: OwnSpace): Promise<void> {
    chosen.space = 'srgb';
    problem = await ownProfiles.remove(key).then(
      () => '',
      (error: Error) => error.message
    );
  }

  // What another format can't say is not kept.
  $effect(() => {
    if (!format.depths.includes(chosen.depth)) chosen.depth = format.depths[0];
    if (isOwn(chosen.space) ? !format.ownSpaces : !format.spaces.includes(chosen.space))
      chosen.space = format.spaces[0];
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
  {:else if format.compresses?.includes(chosen.depth)}
    <Select labelText="Compression" bind:selected={chosen.compression}>
      {#each COMPRESSIONS as how (how)}<SelectItem value={how} text={COMPRESSED[how]} />{/each}
    </Select>
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
{#if format.spaces.length > 1}
  <div class="space">
    <div class="which">
      <Select
        labelText="Colour space"
        selected={own?.key ?? String(chosen.space)}
        on:update={({ detail }) => choose(String(detail))}
      >
        {#each format.spaces as s (s)}<SelectItem value={s} text={spaceOf(s).title} />{/each}
        {#if format.ownSpaces}
          {#each ownProfiles.list as { key, title } (key)}<SelectItem value={key} text={title} />{/each}
        {/if}
      </Select>
    </div>
    {#if format.ownSpaces}
      <div class="buttons">
        <FilesButton
          title="Add a profile …"
          label="ICC profile to write by"
          accept=".icc,.icm"
          multiple={false}
          onfiles={add}
        />
        {#if own}
          <button
            class="tool raised"
            aria-label="Forget “{own.title}”"
            title="Forget “{own.title}”"
            onclick={() => void forget(own)}>Forget it</button
          >
        {/if}
      </div>
    {/if}
  </div>
  {#if problem}<p class="problem" role="alert">{problem}</p>{/if}
{/if}
{#if own}
  <div class="two long">
    <Select
      labelText="Colours that it can’t hold"
      selected={own.intent}
      disabled={!kept || kept.intents.length < 2}
      helperText={kept && kept.intents.length < 2 ? 'The profile knows this way only.' : ''}
      on:update={({ detail }) => (chosen.space = { ...own, intent: detail as Intent })}
    >
      {#each kept?.intents ?? [own.intent] as intent (intent)}
        <SelectItem value={intent} text={INTO[intent]} />
      {/each}
    </Select>
    <div class="low">
      <Checkbox
        labelText="Black-point compensation"
        checked={own.blackPoint}
        on:check={({ detail }) => (chosen.space = { ...own, blackPoint: detail })}
      />
    </div>
  </div>
{/if}
{#if chosen.depth === 'u8'}
  <Checkbox labelText="Dither, against bands in gradients" bind:checked={chosen.dither} />
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
  .space {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
    align-items: end;
  }
  .which {
    flex: 1 1 220px;
  }
  .buttons > :global(button) {
    flex: none;
    width: auto;
    white-space: nowrap;
  }
  .buttons {
    display: flex;
    flex: none;
    gap: 8px;
    align-items: end;
    padding-bottom: 3px;
  }
  .problem {
    margin: -8px 0 0;
    color: var(--k-warn);
    font-size: 12px;
  }
  .low {
    align-self: end;
    padding-bottom: 8px;
  }
</style>
