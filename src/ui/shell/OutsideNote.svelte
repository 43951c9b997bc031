<script lang="ts">
  import { isOwn, spaceTitle } from '$core/colour/own';
  import type { PictureSource } from '$core/document';
  import { HELD, type Outside } from '$core/path/outside';
  import type { ExportSettings, ExportShape } from '$engine/export';
  import { outsideOfFile, outsideSeen } from '$engine/outside';
  import { Follower } from '../bench/follower.svelte';
  import { told } from '../numbers';
  import { pool } from '../services';

  interface Props {
    source: PictureSource;
    shape: ExportShape;
    settings: Pick<ExportSettings, 'format' | 'depth' | 'space'>;
  }
  let { source, shape, settings }: Props = $props();

  const SEEN = 960;
  /** What is not asked again while a choice is still being made. */
  const PATIENCE = 300;
  const space = $derived(spaceTitle(settings.space ?? 'srgb'));
  /** A profile of one's own changes them, by so much at least. */
  const becomes = $derived(
    isOwn(settings.space) ? `and change by over ΔE\u00a0${HELD}` : 'and are cut there'
  );

  const counting = new Follower<null, Outside>(
    'how much lies outside the colour space',
    (_, { signal }) => outsideOfFile(pool, shape, source, settings, signal),
    { patience: PATIENCE, interrupts: true }
  );
  const seeing = new Follower<null, string>(
    'where the picture lies outside the colour space',
    async (_, { signal }) =>
      URL.createObjectURL(
        new Blob([new Uint8Array(await outsideSeen(pool, shape, source, settings, SEEN, signal))], {
          type: 'image/jpeg'
        })
      ),
    { interrupts: true }
  );
  let shown = $state(false);
  const { format, depth, space: id } = $derived(settings);
  $effect(() => {
    void [source, format, depth, id];
    counting.clear();
    counting.ask(null);
    seeing.clear();
    if (shown) seeing.ask(null);
    return () => {
      counting.clear();
      seeing.clear();
    };
  });
  $effect(() => {
    const url = seeing.value;
    return () => {
      if (url) URL.revokeObjectURL(url);
    };
  });

  const part = $derived(counting.value && counting.value.outside / Math.max(1, counting.value.pixels));
  const percent = (v: number): string => (v < 0.0001 ? 'Less than 0.01' : told(100 * v, v < 0.1 ? 2 : 1));
</script>

<div class="note">
  {#if part === null}
    <p class="quiet">Counting what lies outside {space} …</p>
  {:else if part === 0}
    <p class="quiet">All of it lies within {space}.</p>
  {:else}
    <p class="line">
      <span>{percent(part)} % of the pixels lie outside {space}, {becomes}.</span>
      <button
        class="tool raised"
        aria-expanded={shown}
        onclick={() => {
          shown = !shown;
          if (shown && !seeing.value) seeing.ask(null);
        }}>{shown ? 'Hide' : 'Show where'}</button
      >
    </p>
    {#if shown}
      <div class="seen">
        {#if seeing.value}
          <img
            src={seeing.value}
            onload={(event) => (event.currentTarget as Element).scrollIntoView({ block: 'nearest' })}
            alt="The picture, hatched where it lies outside {space}"
          />
        {/if}
      </div>
    {/if}
  {/if}
</div>

<style>
  .line {
    display: flex;
    gap: 12px;
    align-items: center;
    justify-content: space-between;
    font-size: 13px;
  }
  .line .tool {
    flex: none;
  }
  .seen {
    display: flex;
    justify-content: center;
    height: 220px;
    margin-top: 8px;
    background: var(--k-stage);
  }
  img {
    max-width: 100%;
    max-height: 100%;
    object-fit: contain;
  }
</style>
