<script lang="ts">
  import { OverflowMenu, OverflowMenuItem, TextInput } from 'carbon-components-svelte';
  import { maskSchema, type MaskSource } from '$core/document';
  import type { Recipe } from '$core/document/history';
  import { fileFormats, type FileFormat } from '$core/files';
  import type { Frame } from '$core/raster/frame';
  import { addFiles, addFrames, type Ids } from '../bench/add-files';
  import type { BenchState } from '../bench/bench.svelte';
  import { maskStep } from '../bench/mask-bench.svelte';
  import { newId } from '../bench/names';
  import { maskRemoval } from '../bench/removal';
  import { pictureOf, type Session } from '../bench/session.svelte';
  import { exportFrom } from '../services';
  import { saveFile } from '../shell/save-file';
  import { wasCancelled } from '../was-cancelled';

  let { session, bench }: { session: Session; bench: BenchState } = $props();

  const masks = $derived(bench.masks);
  const named = $derived(session.document.masks);
  let naming = $state<string | null>(null);
  let busy = $state('');
  let problem = $state('');
  let picker: HTMLInputElement;
  const inPlace = $derived(masks.place.kind === 'named' ? masks.place.id : null);

  /** Keeps the mask under a name; the place it was in then uses the named one. */
  function keep(): void {
    const name = (naming ?? '').trim().slice(0, 200);
    naming = null;
    const { mask } = masks;
    if (!name || !mask) return;
    const id = newId('m');
    if (inPlace) {
      session.change('Rename a mask', (draft) => {
        const found = draft.masks.find((m) => m.id === inPlace);
        if (found) found.name = name;
      });
      return;
    }
    const copy = JSON.parse(JSON.stringify(mask)) as typeof mask;
    session.change('Name a mask', (draft) => void draft.masks.push({ id, name, mask: copy }));
    const own = maskSchema.parse({ terms: [{ source: { kind: 'mask', id } }] });
    masks.change('Use the named mask', (m) => Object.assign(m, own));
    masks.termAt = 0;
  }

  async function fileOf(format: FileFormat): Promise<Blob> {
    const shown = session.cursor.showing([...session.cursor.stepsBefore, maskStep(masks.mask!)]);
    const settings = { format: format.id, depth: 'u16' as const, grey: true };
    const shape = { ...session.cursor.head, ...shown.geometry, encoding: 'coded' as const };
    const { signal } = new AbortController();
    return exportFrom(shape, pictureOf(shown), settings, () => undefined, signal);
  }
  const fileName = (): string => `${session.cursor.picture.name}, mask`.replace(/[\\/:*?"<>|]/g, '_');

  async function working(doing: string, work: () => Promise<void>): Promise<void> {
    busy = doing;
    problem = '';
    try {
      await work();
    } catch (error) {
      const text = `${(error as Error).message} The mask is as it was.`;
      if (wasCancelled(error)) session.notice = text;
      else problem = text;
    } finally {
      busy = '';
    }
  }

  const save = (id: FileFormat['id']): Promise<void> =>
    working('Writing the mask …', async () => {
      const format = fileFormats.find((f) => f.id === id)!;
      saveFile(`${fileName()}.${format.extensions[0]}`, await fileOf(format));
    });

  const asPicture = (): Promise<void> =>
    working('Making a picture of the mask …', async () => {
      const png = fileFormats.find((f) => f.id === 'png')!;
      await addFrames(session, [{ name: `${fileName()}.png`, file: await fileOf(png) }]);
      session.notice = 'The mask is a picture of its own now, the last one above.';
    });

  /** Loads a file into the mask that is worked on now, whatever is selected once it is read. */
  function load(): Promise<void> {
    const file = picker.files?.[0];
    if (!file) return Promise.resolve();
    return working('', async () => {
      const { width, height } = session.cursor.head;
      const check = (frame: Frame): void => {
        if (frame.width === width && frame.height === height) return;
        throw new Error(
          `“${file.name}” is ${frame.width} × ${frame.height} pixels and this picture ${width} × ${height}: a mask must be of the picture’s size.`
        );
      };
      const { spot } = masks;
      const begun = masks.termOf({ kind: 'channel', channel: 'rgb.r' });
      // So that the same file is a change where it is chosen again.
      picker.value = '';
      const put = (first: Recipe, { pictures: [picture] }: Ids): boolean =>
        masks.addTo(spot, { ...begun, source: { ...begun.source, of: { picture } } as MaskSource }, first);
      await addFiles(session, { frames: [{ name: file.name, file }] }, put, check);
    });
  }
</script>

<OverflowMenu size="sm" flipped aria-label="What to do with this mask">
  <OverflowMenuItem
    text={inPlace ? 'Rename the mask' : 'Keep under a name'}
    disabled={!masks.mask}
    on:click={() => (naming = named.find((m) => m.id === inPlace)?.name ?? `mask ${named.length + 1}`)}
  />
  {#each named as m (m.id)}
    {#if m.id !== inPlace}
      <OverflowMenuItem
        text={`Work on “${m.name}”`}
        on:click={() => {
          masks.place = { kind: 'named', id: m.id };
          masks.termAt = 0;
        }}
      />
    {/if}
  {/each}
  <OverflowMenuItem hasDivider text="Save as PNG" disabled={!masks.mask} on:click={() => void save('png')} />
  <OverflowMenuItem text="Save as TIFF" disabled={!masks.mask} on:click={() => void save('tiff')} />
  <OverflowMenuItem text="Load from a file" on:click={() => picker.click()} />
  <OverflowMenuItem text="Make a picture of it" disabled={!masks.mask} on:click={() => void asPicture()} />
  {#if inPlace}
    <OverflowMenuItem
      hasDivider
      danger
      text="Remove the named mask"
      on:click={() => {
        bench.removal = maskRemoval(session, inPlace);
        if (!bench.removal) masks.place = { kind: 'step' };
      }}
    />
  {:else}
    <OverflowMenuItem
      hasDivider
      danger
      text="Act everywhere"
      disabled={!masks.mask}
      on:click={() => masks.clear()}
    />
  {/if}
</OverflowMenu>
<input
  bind:this={picker}
  type="file"
  accept=".png,.tif,.tiff,.jpg,.jpeg"
  aria-label="File of a mask"
  hidden
  onchange={() => void load()}
/>
{#if naming !== null || busy || problem}
  <div class="below">
    {#if naming !== null}
      <form
        onsubmit={(event) => {
          event.preventDefault();
          keep();
        }}
      >
        <TextInput size="sm" labelText="Name of the mask" bind:value={naming} />
        <button class="tool raised" type="submit">Keep</button>
        <button class="tool" type="button" onclick={() => (naming = null)}>Cancel</button>
      </form>
    {/if}
    {#if busy}<p class="quiet" role="status">{busy}</p>{/if}
    {#if problem}<p class="warn" role="alert">{problem}</p>{/if}
  </div>
{/if}

<style>
  .below {
    position: absolute;
    z-index: 5;
    top: 34px;
    right: 0;
    left: 0;
    background: #202020;
  }
  form {
    display: grid;
    grid-template-columns: 1fr auto auto;
    gap: 6px;
    align-items: end;
    padding: 8px 12px;
  }
  p {
    margin: 0;
    padding: 6px 12px;
    font-size: 12px;
  }
</style>
