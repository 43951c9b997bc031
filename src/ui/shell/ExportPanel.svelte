<script lang="ts">
  import {
    InlineNotification,
    Modal,
    ProgressBar,
    RadioButton,
    RadioButtonGroup,
    TextInput
  } from 'carbon-components-svelte';
  import { spaceTitle as titleOf } from '$core/colour/own';
  import { fileFormats } from '$core/files';
  import type { Frame } from '$core/raster/frame';
  import {
    exportEncoding,
    exportSize,
    toldAlong,
    isGrey,
    notesOf,
    toldOf,
    type ExportProgress
  } from '$engine/export';
  import { opOf } from '$core/ops';
  import { Follower } from '../bench/follower.svelte';
  import type { ViewLift } from '../bench/lift.svelte';
  import type { Session } from '../bench/session.svelte';
  import { addStep } from '../bench/steps';
  import { correctShift, leftOut, type LeftOut } from '../bench/shifts';
  import { bytesTold, durationTold, told } from '../numbers';
  import { exportFrom, pool } from '../services';
  import OutsideNote from './OutsideNote.svelte';
  import OutputSettings, { settingsOf, usualOutput } from './OutputSettings.svelte';
  import { saveFile } from './save-file';

  interface Props {
    session: Session;
    lift: ViewLift;
    open: boolean;
    /** Told when a file is written: what it is called, how large it is and where it lies. */
    ondone: (text: string) => void;
  }
  let { session, lift, open = $bindable(), ondone }: Props = $props();

  const DOING = { computing: 'Computing the picture', writing: 'Writing the file' };
  const NAME_RULE = 'Give a name without \\ / : * ? " < > |';

  let name = $state('');
  let chosen = $state(usualOutput());
  let badQuality = $state(false);
  /** FITS: one plane, or three; while nothing was chosen, as the picture asks for. */
  let chosenPlanes = $state<'1' | '3' | null>(null);
  let progress = $state<ExportProgress | null>(null);
  let problem = $state('');
  let running: AbortController | null = null;

  const format = $derived(fileFormats.find((f) => f.id === chosen.format)!);
  const badName = $derived(name.trim() === '' || /[\\/:*?"<>|]/.test(name));
  const shape = $derived(session.cursor.shape);
  const size = $derived(exportSize(shape, chosen.longerSide || undefined));
  const spaceTitle = $derived(titleOf(chosen.space));
  const written = $derived(
    shape.encoding === 'coded'
      ? spaceTitle
      : exportEncoding(shape.encoding, chosen) === 'linear'
        ? `linear values, as the picture is${chosen.space === 'srgb' ? '' : `, of ${spaceTitle}`}`
        : `${spaceTitle}: the linear picture is encoded`
  );

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
  const greys = new Follower(
    'whether the picture is grey',
    (_: null, { signal }) => isGrey(pool, session.cursor.source, signal),
    { interrupts: true }
  );
  $effect(() => {
    void session.cursor.source;
    if (!open || chosen.format !== 'fits') return;
    chosenPlanes = null;
    greys.ask(null);
  });
  const planes = $derived(chosenPlanes ?? (greys.value ? '1' : '3'));

  const frameOf = (hash: string): Frame | undefined => session.pictures.open(hash)?.frame;
  const telling = $derived(toldAlong({ ...chosen, told: toldOf(session.cursor.source, frameOf) }, shape));

  async function run(): Promise<void> {
    running = new AbortController();
    problem = '';
    began = performance.now();
    progress = { doing: 'computing', part: 0 };
    const onePlane = async (): Promise<boolean> =>
      chosenPlanes === null ? isGrey(pool, session.cursor.source, running?.signal) : planes === '1';
    try {
      const settings = {
        ...settingsOf(chosen),
        grey: chosen.format === 'fits' && (await onePlane()),
        notes: notesOf(session.cursor.source, frameOf),
        told: toldOf(session.cursor.source, frameOf)
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
  class="export-panel"
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
    <OutputSettings bind:chosen bind:bad={badQuality} largest={Math.max(shape.width, shape.height)} />
    {#if chosen.format === 'fits'}
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
    {#if open && !(chosen.depth === 'f32' && chosen.keepRange)}
      <OutsideNote source={session.cursor.source} {shape} settings={chosen} />
    {/if}
    {#if telling.along || telling.lost}<p class="quiet">{telling.along} {telling.lost}</p>{/if}
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
  /* What is chosen is seen together with what it comes to. */
  :global(.export-panel .bx--modal-container) {
    max-height: 96%;
  }
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
</style>
