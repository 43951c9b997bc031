<script lang="ts">
  import { allSteps } from '$core/document';
  import { opOf } from '$core/ops';
  import type { BenchState } from '../bench/bench.svelte';
  import type { Session } from '../bench/session.svelte';
  import { longWork } from '../long-work.svelte';
  import { durationTold, readings } from '../numbers';

  interface Props {
    session: Session;
    bench: BenchState;
    computed: number | null;
  }
  let { session, bench, computed }: Props = $props();
  const { reader, viewport } = $derived(bench);

  const GROUPS = [
    ['rgb.r', 'rgb.g', 'rgb.b'],
    ['lab.l', 'lab.a', 'lab.b'],
    ['cmyk.c', 'cmyk.m', 'cmyk.y', 'cmyk.k']
  ];
  const SAVE = { saved: 'saved', saving: 'saving …', failed: 'not saved' };
  const ELSEWHERE = { following: 'follows', deleted: 'deleted', gone: 'not stored' };
  const { presence } = $derived(session);
  const saving = $derived(
    presence.state === 'editing' ? SAVE[session.saving.state] : ELSEWHERE[presence.state]
  );
  const sides = $derived(
    reader.values
      ? (['in', 'out'] as const).map((side, i) => ({
          side,
          groups: GROUPS.map((ids) => readings(reader.values![i], bench.encodings[i], ids))
        }))
      : []
  );
  const work = $derived.by(() => {
    const step = allSteps(session.cursor.picture.steps).find(({ id }) =>
      longWork.list.some((w) => w.step === id)
    );
    const of = step && longWork.on(step);
    return of && `${step.name ?? opOf(step.op).title}: ${of.doing}, ${Math.round(100 * of.part)} %`;
  });
  const megapixels = $derived(((viewport.picture.width * viewport.picture.height) / 1e6).toFixed(1));
</script>

<footer class="mono" aria-label="Readings">
  {#if reader.spot && sides.length}
    <span class="place">{reader.spot.x}, {reader.spot.y}</span>
    {#each sides as { side, groups } (side)}
      <span class="side" data-side={side}>
        <b>{side}</b>
        {#each groups as group, g (g)}
          <span class="group">
            {#each group as { channel, text } (channel.id)}
              <span class="reading"><i>{channel.sign}</i><span data-channel={channel.id}>{text}</span></span>
            {/each}
          </span>
        {/each}
      </span>
    {/each}
  {:else}
    <span class="quiet">Move over the picture to read it: RGB and inks in %, LAB in its own units</span>
  {/if}
  <span class="space"></span>
  <span class="wide">{(viewport.placement.zoom * 100).toFixed(0)} %</span>
  <span class="wide">{megapixels} MP</span>
  {#if work}<span class="work" title={work}>{work}</span>
  {:else if computed !== null}<span class="time" title="From the last change until the picture stood"
      >{computed < 2000 ? `${computed.toFixed(0)} ms` : durationTold(computed / 1000)}</span
    >{/if}
  <span class="save" class:failed={session.saving.state === 'failed'} data-save={session.saving.state}
    >{saving}</span
  >
</footer>

<style>
  footer {
    display: flex;
    align-items: center;
    gap: 12px;
    padding: 0 12px;
    background: #161616;
    border-top: 1px solid var(--k-line);
    font-size: 11px;
    white-space: nowrap;
  }
  .place {
    min-width: 74px;
    color: var(--k-text-quiet);
  }
  .side {
    display: flex;
    gap: 11px;
  }
  b {
    color: var(--k-bone);
    font-weight: 400;
  }
  .group {
    display: flex;
    gap: 6px;
  }
  .reading {
    display: inline-flex;
    gap: 3px;
  }
  .reading span {
    min-width: 4ch;
    text-align: right;
  }
  .reading span[data-channel='lab.a'],
  .reading span[data-channel='lab.b'] {
    min-width: 5ch;
  }
  i {
    color: var(--k-text-quiet);
    font-style: normal;
  }
  .space {
    flex: 1;
  }
  .wide,
  .time {
    color: var(--k-text-quiet);
  }
  .work {
    overflow: hidden;
    flex: 0 1 auto;
    min-width: 40px;
    color: var(--k-text);
    text-overflow: ellipsis;
    animation: appear 0s 0.3s both;
  }
  @keyframes appear {
    from {
      opacity: 0;
    }
  }
  .failed {
    color: var(--k-warn);
  }
  /* Ink is told where there is room for it; the table of pins has it at any width. */
  @media (max-width: 1260px) {
    .group:nth-of-type(3) {
      display: none;
    }
  }
  @media (max-width: 1700px) {
    .wide {
      display: none;
    }
  }
</style>
