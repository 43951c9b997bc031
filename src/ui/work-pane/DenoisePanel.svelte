<script lang="ts">
  import { Button } from 'carbon-components-svelte';
  import { modelOf } from '$core/colour';
  import { actsOn, wayTo } from '$core/document';
  import { COARSEST, denoise as op, type DenoiseParams, type DenoiseSolution } from '$core/ops/denoise';
  import { paramsOf } from '$core/ops/op';
  import type { OutPlace } from '../bench/compare.svelte';
  import { TakenOutMeasure } from '../bench/taken-out.svelte';
  import { swatch } from '../channel-colour';
  import { told } from '../numbers';
  import Choice from './Choice.svelte';
  import type { PanelProps } from './panels';
  import { solvedNumbers } from './solved.svelte';
  import StepAmounts from './StepAmounts.svelte';

  let { session, bench, step }: PanelProps = $props();
  const params = $derived(paramsOf(op, step));
  const on = $derived(actsOn(step));
  const channels = $derived(modelOf(on.model).channels.filter((c) => on.channels.includes(c.letter)));

  const solving = solvedNumbers<DenoiseSolution>(
    () => bench,
    'the noise of what comes in',
    () => true
  );
  const noise = $derived(solving.value?.noise ?? []);

  const taking = new TakenOutMeasure();
  const ids = $derived(channels.map(({ id }) => id).join(' '));
  $effect(() =>
    taking.measure({
      before: bench.at({ before: step.id }),
      after: bench.at({ after: step.id }),
      channels: ids.split(' ')
    })
  );
  $effect(() => () => taking.stop());
  const figures = $derived(taking.figures);

  /** What comes into the step, as a place of Out. */
  const before = $derived<OutPlace>({
    picture: session.cursor.picture.id,
    at: ((id) => (id ? { after: id } : 'head'))(wayTo(session.cursor.picture.steps, step.id).at(-2)?.id)
  });
  const { compare } = $derived(bench);
  const TIMES = 32;
  /** What is taken out of a channel that holds no noise is no more than rounding. */
  const NOTHING = 1e-6;

  function toggle(): void {
    if (compare.forAWhile) return compare.bringBack();
    const { outTab, viewport } = bench;
    const zoomedAsBefore = viewport.remembered();
    compare.showDifference(before, { by: 'samples', times: TIMES }, () => {
      bench.outTab = outTab;
      zoomedAsBefore();
    });
    bench.outTab = 'after';
    // Smaller than it is, noise is averaged away.
    if (viewport.placement.zoom < 1) viewport.zoomTo(1);
  }
  // It is of this step alone.
  const { id } = $derived(step);
  $effect(() => {
    void id;
    return () => compare.bringBack();
  });

  function set(what: string, change: (p: DenoiseParams) => void): void {
    session.changeParams(op, `${op.title}: ${what}`, change);
  }
  /** Of frames of the sky it may be a ten thousandth. */
  const sigmaTold = (v: number, most = v): string => told(v, most < 0.1 ? 4 : most < 1 ? 3 : 2);
  /** σ where it is least and where it is most, in the unit of the channel. */
  const range = (sigmas: readonly number[], scale: number): string => {
    const most = Math.max(...sigmas) * scale;
    const [from, to] = [Math.min(...sigmas) * scale, most].map((v) => sigmaTold(v, most));
    return from === to ? to : `${from}–${to}`;
  };
</script>

<div class="panel">
  <StepAmounts {session} {step} {op} />
  <Choice
    legend="Noise as coarse as, px"
    value={String(params.coarsest)}
    values={COARSEST.map((px) => [String(px), String(px)] as const)}
    onchange={(px) => set('coarsest', (p) => (p.coarsest = Number(px) as DenoiseParams['coarsest']))}
  />
  <table class="mono found" aria-label="Noise, and what is taken out">
    <thead>
      <tr>
        <th scope="col"><span class="bx--visually-hidden">channel</span></th>
        <th scope="col">noise σ</th>
        <th scope="col">out σ</th>
        <th scope="col">structure</th>
      </tr>
    </thead>
    <tbody>
      {#each channels as channel, c (channel.id)}
        {@const scale = Math.abs(channel.readout.scale)}
        {@const taken = figures?.of[c]}
        <tr>
          <th scope="row">
            <span class="dot" style:background={swatch(channel.id)}></span>{channel.sign}
          </th>
          <td>{noise[c] ? range(noise[c].sigmas, scale) : '…'}</td>
          <td>{taken ? sigmaTold(taken.sigma * scale) : '…'}</td>
          <td>{!taken ? '…' : taken.sigma < NOTHING ? '–' : `${told(100 * taken.structure, 1)} %`}</td>
        </tr>
      {/each}
    </tbody>
  </table>
  <p class="quiet" role="status">
    {#if figures && figures.part === 1}Structure is the part of what is taken out that samples beside each
      other share, as noise does not: much of it means that detail goes with the noise.
    {:else if figures}Told of {told(100 * figures.part, 0)} % of the picture so far.
    {:else}Looking at what is taken out …{/if}
  </p>
  <Button size="small" kind="tertiary" on:click={toggle}>
    {compare.forAWhile ? 'Show the picture again' : `Show what is taken out, × ${TIMES}`}
  </Button>
</div>

<style>
  .panel {
    display: grid;
    gap: 12px;
  }
  p {
    margin: 0;
    font-size: 12px;
  }
</style>
