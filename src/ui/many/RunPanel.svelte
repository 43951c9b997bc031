<script lang="ts">
  import { Button, ProgressBar } from 'carbon-components-svelte';
  import { strengthIn } from '$core/document';
  import { isOwn, spaceTitle, type OutputSpace } from '$core/colour/own';
  import { fileFormats } from '$core/files';
  import type { ManyRun } from '$storage/many-store';
  import { durationTold } from '../numbers';
  import { intoTold } from '../shell/OutputSettings.svelte';
  import { saveFile } from '../shell/save-file';
  import { contactSheet, SHEET_HOLDS } from './contact-sheet';
  import type { Many } from './many.svelte';

  interface Props {
    many: Many;
    run: ManyRun;
    /** Does something, and tells what can't be done. */
    doing: (work: () => Promise<void>) => Promise<void>;
    /** The run was put away. */
    onagain: () => void;
  }
  let { many, run, doing, onagain }: Props = $props();

  const again = (): Promise<void> =>
    doing(async () => {
      const cleared = many.clear();
      // At once: files that are given from now on are of the next.
      onagain();
      await cleared;
    });
  const save = (): Promise<void> =>
    doing(async () => saveFile(`${run.look.look.name}.zip`, await many.zip()));
  const sheet = (): Promise<void> =>
    doing(async () => {
      const made = many.items.filter(({ small }) => small);
      const sheets = Math.ceil(made.length / SHEET_HOLDS);
      for (let i = 0; i < sheets; i++) {
        const part = made.slice(i * SHEET_HOLDS, (i + 1) * SHEET_HOLDS);
        saveFile(`contact sheet${sheets > 1 ? ` ${i + 1}` : ''}.jpg`, await contactSheet(part));
      }
    });
  const finished = $derived(many.waiting === 0 && !many.working);
  const lookTold = $derived.by(() => {
    const { look } = run.look;
    const strength = strengthIn(look);
    return strength < 1 ? `${look.name}, at ${Math.round(100 * strength)} %` : look.name;
  });
  const settingsTold = $derived.by(() => {
    const { format, space, longerSide, depth, metadata, history } = run.settings;
    const { title, deepBits } = fileFormats.find(({ id }) => id === format)!;
    const bits = { u8: '8 bit', u16: `${deepBits ?? 16} bit`, f32: '32-bit float' }[depth];
    const size = longerSide ? `${longerSide} px` : 'full size';
    const kept = { keep: [], 'no-place': ['metadata without place and camera'], none: ['no metadata'] };
    const said = history ? ['what was done written into it'] : [];
    return [title, bits, spaceTold(space), size, ...kept[metadata ?? 'keep'], ...said].join(', ');
  });
  const spaceTold = (space: OutputSpace = 'srgb'): string =>
    isOwn(space) ? `${space.title} (${intoTold(space)})` : spaceTitle(space);
</script>

<dl>
  <dt>Look</dt>
  <dd>{lookTold}</dd>
  <dt>Files</dt>
  <dd>{settingsTold}</dd>
  <dt>Into</dt>
  <dd>{run.folder ? `the folder “${run.folder.name}”` : 'one zip'}</dd>
</dl>
<p role="status">
  {many.done} of {many.items.length} made{many.failed > 0 ? `, ${many.failed} failed` : ''}.
  {#if many.paused}Paused.{:else if many.working && many.left !== null}About {durationTold(many.left / 1000)} left.{:else if !many.working && many.waiting > 0}Stopped;
    {many.stays ? 'what was made is kept' : 'what was made is here as long as this page'}.{/if}
</p>
<ProgressBar
  labelText="How much of it is done"
  hideLabel
  size="sm"
  value={many.done + many.failed}
  max={many.items.length}
/>
<div class="buttons">
  {#if many.working}
    {#if many.paused}
      <Button size="small" on:click={() => many.unpause()}>Go on</Button>
    {:else}
      <Button size="small" kind="tertiary" on:click={() => many.pause()}>Pause</Button>
    {/if}
    <Button size="small" kind="ghost" on:click={() => many.stop()}>Stop</Button>
  {:else}
    {#if many.waiting > 0}
      <Button size="small" on:click={() => void many.proceed()}>Go on</Button>
    {/if}
    {#if many.failed > 0}
      <Button size="small" kind="tertiary" on:click={() => void many.retry()}>Try the failed again</Button>
    {/if}
    {#if many.done > 0 && !run.folder}
      <Button size="small" kind={finished ? 'primary' : 'tertiary'} on:click={() => void save()}
        >Save the zip</Button
      >
    {/if}
    {#if many.done > 0}
      <Button size="small" kind="ghost" on:click={() => void sheet()}>Contact sheet</Button>
      <Button size="small" kind="ghost" on:click={() => window.print()}>Print</Button>
    {/if}
    <Button size="small" kind="ghost" on:click={() => void again()}>New work</Button>
  {/if}
</div>
{#if many.working}
  <p class="quiet">It goes on while this page is open, and can be gone on with after a reload.</p>
{/if}

<style>
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 6px 16px;
    margin: 0;
    font-size: 14px;
  }
  dt {
    color: var(--k-text-quiet);
  }
  dd {
    margin: 0;
    overflow-wrap: anywhere;
  }
</style>
