<script lang="ts">
  import {
    Checkbox,
    InlineNotification,
    Modal,
    NumberInput,
    ProgressBar,
    RadioButton,
    RadioButtonGroup,
    Select,
    SelectItem,
    TextInput
  } from 'carbon-components-svelte';
  import { spaceOf, type SpaceId } from '$core/colour/output';
  import { fileFormats, type FileFormat } from '$core/files';
  import type { SampleType } from '$core/raster/frame';
  import { exportEncoding, exportSize, isGrey, notesOf, type ExportProgress } from '$engine/export';
  import { opOf } from '$core/ops';
  import { Follower } from '../bench/follower.svelte';
  import type { ViewLift } from '../bench/lift.svelte';
  import type { Session } from '../bench/session.svelte';
  import { addStep } from '../bench/steps';
  import { correctShift, leftOut, type LeftOut } from '../bench/shifts';
  import { bytesTold, durationTold, told } from '../numbers';
  import { exportFrom, pool } from '../services';
  import { saveFile } from './save-file';

  interface Props {
    session: Session;
    lift: ViewLift;
    open: boolean;
    /** Told when a file is written: what it is called, how large it is and where it lies. */
    ondone: (text: string) => void;
  }
  let { session, lift, open = $bindable(), ondone }: Props = $props();

  const depthTold = (of: SampleType, { deepBits = 16 }: FileFormat): string =>
    ({ u8: '8 bit', u16: `${deepBits} bit`, f32: '32-bit float' })[of];
  const DOING = { computing: 'Computing the picture', writing: 'Writing the file' };
  const NAME_RULE = 'Give a name without \\ / : * ? " < > |';
  const SIZES = [0, 4096, 2048, 1024];

  let name = $state('');
  let formatId = $state<FileFormat['id']>('png');
  let depth = $state<SampleType>('u16');
  let quality = $state(92);
  let spaceId = $state<SpaceId>('srgb');
  let dither = $state(true);
  let keepRange = $state('no');
  /** FITS: one plane, or three; while nothing was chosen, as the picture asks for. */
  let chosenPlanes = $state<'1' | '3' | null>(null);
  let longerSide = $state('0');
  let progress = $state<ExportProgress | null>(null);
  let problem = $state('');
  let running: AbortController | null = null;

  const format = $derived(fileFormats.find((f) => f.id === formatId)!);
  const badName = $derived(name.trim() === '' || /[\\/:*?"<>|]/.test(name));
  const shape = $derived(session.cursor.shape);
  const size = $derived(exportSize(shape, Number(longerSide) || undefined));
  const spaceTitle = $derived(spaceOf(spaceId).title);
  const written = $derived(
    shape.encoding === 'coded'
      ? spaceTitle
      : exportEncoding(shape.encoding, { format: formatId, depth }) === 'linear'
        ? `linear values, as the picture is${spaceId === 'srgb' ? '' : `, of ${spaceTitle}`}`
        : `${spaceTitle}: the linear picture is encoded`
  );
  const badQuality = $derived(format.quality !== null && !(quality >= 1 && quality <= 100));

  /** Merges whose pictures do not lie on each other: looked for while the settings are chosen. */
  const looking = new Follower('whether exposures lie on each other', () => leftOut(session));
  const shifted = $derived(looking.value ?? []);
  $effect(() => {
    void session.cursor.active;
    if (open) looking.ask(null);
  });
  const shiftTold = ({ step, shift: [x, y] }: LeftOut): string =>
    `“${step.name ?? opOf(step.op).title}” takes from a picture that lies ${told(x, 1, true)} px to the right and ${told(y, 1, true)} px down of this one.`;

  let began = 0;
  /** When the file is likely to be written, in words; nothing before there is something to go by. */
  const left = $derived.by(() => {
    const passed = (performance.now() - began) / 1000;
    if (!progress || progress.part < 0.05 || passed < 1) return '';
    return durationTold((passed / progress.part) * (1 - progress.part));
  });

  $effect(() => {
    if (open) name = session.cursor.picture.name.replace(/[\\/:*?"<>|]/g, '_');
  });
  $effect(() => {
    if (formatId !== 'fits') return;
    keepRange = 'yes';
  });
  const greys = new Follower(
    'whether the picture is grey',
    (_: null, { signal }) => isGrey(pool, session.cursor.source, signal),
    { interrupts: true }
  );
  $effect(() => {
    void session.cursor.source;
    if (!open || formatId !== 'fits') return;
    chosenPlanes = null;
    greys.ask(null);
  });
  const planes = $derived(chosenPlanes ?? (greys.value ? '1' : '3'));
  $effect(() => {
    if (!format.depths.includes(depth)) depth = format.depths[0];
  });
  $effect(() => {
    if (!format.spaces.includes(spaceId)) spaceId = format.spaces[0];
  });

  async function run(): Promise<void> {
    running = new AbortController();
    problem = '';
    began = performance.now();
    progress = { doing: 'computing', part: 0 };
    const onePlane = async (): Promise<boolean> =>
      chosenPlanes === null ? isGrey(pool, session.cursor.source, running?.signal) : planes === '1';
    try {
      const settings = {
        format: formatId,
        depth,
        quality,
        space: spaceId,
        dither: depth === 'u8' && dither,
        keepRange: depth === 'f32' && keepRange === 'yes',
        grey: formatId === 'fits' && (await onePlane()),
        notes: notesOf(session.cursor.source, (hash) => session.pictures.open(hash)?.frame),
        longerSide: Number(longerSide) || undefined
      };
      const content = await exportFrom(
        shape,
        session.cursor.source,
        settings,
        (p) => (progress = p),
        running.signal
      );
      const file = `${name.trim()}.${format.extensions[0]}`;
      saveFile(file, content);
      open = false;
      ondone(
        `“${file}”, ${size.width} × ${size.height} pixels, ${bytesTold(content.size)}, is among your browser’s downloads.`
      );
    } catch (error) {
      if (!running.signal.aborted) {
        problem =
          error instanceof RangeError
            ? 'There is not enough memory for this file. Choose a smaller size or fewer bits.'
            : (error as Error).message;
      }
    } finally {
      progress = null;
      running = null;
    }
  }

  function cancel(): void {
    if (running) running.abort();
    else open = false;
  }
</script>

<Modal
  bind:open
  size="sm"
  modalHeading="Export the picture"
  primaryButtonText="Export"
  secondaryButtonText="Cancel"
  primaryButtonDisabled={badName || badQuality || progress !== null}
  preventCloseOnClickOutside
  selectorPrimaryFocus="#export-name"
  on:click:button--secondary={cancel}
  on:submit={() => void run()}
  on:close={() => running?.abort()}
>
  <div class="fields">
    <TextInput
      id="export-name"
      labelText="Name"
      bind:value={name}
      invalid={badName}
      invalidText={NAME_RULE}
    />
    <div class="two">
      <Select labelText="Format" bind:selected={formatId}>
        {#each fileFormats as f (f.id)}<SelectItem value={f.id} text={f.title} />{/each}
      </Select>
      <Select labelText="Depth" bind:selected={depth}>
        {#each format.depths as d (d)}<SelectItem value={d} text={depthTold(d, format)} />{/each}
      </Select>
    </div>
    <div class="two">
      <Select labelText="Size" bind:selected={longerSide}>
        {#each SIZES.filter((s) => s < Math.max(shape.width, shape.height)) as s (s)}
          <SelectItem value={String(s)} text={s === 0 ? 'Full size' : `${s} pixels, longer side`} />
        {/each}
      </Select>
      {#if format.quality !== null}
        <NumberInput
          labelText={format.quality === 'lossless' ? 'Quality (at 100 nothing is lost)' : 'Quality'}
          min={1}
          max={100}
          bind:value={quality}
          invalidText="1 to 100"
        />
      {:else if depth === 'f32'}
        <RadioButtonGroup legendText="Values outside 0–100 %" bind:selected={keepRange}>
          <RadioButton value="no" labelText="Clamp" />
          <RadioButton value="yes" labelText="Keep" />
        </RadioButtonGroup>
      {/if}
    </div>
    {#if format.spaces.length > 1 || depth === 'u8'}
      <div class="two">
        {#if format.spaces.length > 1}
          <Select labelText="Colour space" bind:selected={spaceId}>
            {#each format.spaces as s (s)}<SelectItem value={s} text={spaceOf(s).title} />{/each}
          </Select>
        {/if}
        {#if depth === 'u8'}
          <div class="low">
            <Checkbox labelText="Dither, against bands in gradients" bind:checked={dither} />
          </div>
        {/if}
      </div>
    {/if}
    {#if formatId === 'fits'}
      <RadioButtonGroup
        legendText="Planes"
        selected={planes}
        on:change={({ detail }) => {
          if (detail !== planes) chosenPlanes = detail as '1' | '3';
        }}
      >
        <RadioButton value="1" labelText="One: the red one" />
        <RadioButton value="3" labelText="Red, green and blue" />
      </RadioButtonGroup>
    {/if}
    <p class="quiet mono">{size.width} × {size.height} pixels, {written}</p>
    {#if shape.encoding === 'linear' && lift.now}
      {@const { black, middle } = lift.now}
      <div class="shifted" role="alert">
        <span>What is seen is lifted for the eye. The file is as dark as the picture is.</span>
        <button
          class="tool raised"
          onclick={() => {
            session.select(session.cursor.picture.steps.at(-1)?.id ?? null);
            addStep(session, 'stretch', { params: { black: black[0], middle: middle[0] } });
          }}>Stretch it so</button
        >
      </div>
    {/if}
    {#each shifted as one (one.step.id)}
      <div class="shifted" role="alert">
        <span>{shiftTold(one)} That is not corrected.</span>
        <button class="tool raised" onclick={() => correctShift(session, one)}>Correct it</button>
      </div>
    {/each}
    {#if progress}
      <ProgressBar
        labelText={DOING[progress.doing]}
        helperText={`${Math.round(progress.part * 100)} %${left && `, about ${left} left`}`}
        value={progress.part * 100}
        max={100}
        size="sm"
      />
    {/if}
    {#if problem}
      <InlineNotification lowContrast kind="error" title="Not exported." subtitle={problem} hideCloseButton />
    {/if}
  </div>
</Modal>

<style>
  .fields {
    display: flex;
    flex-direction: column;
    gap: 16px;
  }
  .shifted {
    display: flex;
    gap: 12px;
    align-items: center;
    color: var(--k-warn);
    font-size: 13px;
  }
  .shifted .tool {
    flex: none;
  }
  .low {
    align-self: end;
    padding-bottom: 8px;
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 16px;
  }
</style>
