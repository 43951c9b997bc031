<script lang="ts">
  import StepAmount from './StepAmount.svelte';
  import { paramsOf } from '$core/ops/op';
  import { Newest } from '../bench/newest';
  import { Toggle } from 'carbon-components-svelte';
  import Close from 'carbon-icons-svelte/lib/Close.svelte';
  import WarningAlt from 'carbon-icons-svelte/lib/WarningAlt.svelte';
  import { channelOf, channels, wallModels } from '$core/colour';
  import type { Step } from '$core/document';
  import { glasses, monoTotal, type MonoParams, mono as op } from '$core/ops/mono';
  import { separate, type SeparateProposal } from '$core/measure/propose';
  import { shortName, swatch } from '../channel-colour';
  import { told } from '../numbers';
  import ClippedCount from './ClippedCount.svelte';
  import type { PanelProps } from './panels';
  import PromptSelect from '../shell/PromptSelect.svelte';
  import Proposal from './Proposal.svelte';
  import Strip from './Strip.svelte';

  let { session, bench, step }: PanelProps = $props();

  const params = $derived(paramsOf(op, step));
  const weights = $derived(Object.entries(params.weights) as [string, number][]);
  const total = $derived(monoTotal(params));
  const off = $derived(Math.abs(total - 1) > 0.0005);
  const pins = $derived(session.cursor.pins);
  const canSeparate = $derived(pins.some((p) => p.role === 'want') && pins.some((p) => p.role === 'avoid'));
  let problem = $state('');

  /** Single channels of the wall, then coloured glass before the lens. */
  interface Start {
    readonly id: string;
    readonly title: string;
    readonly weights: Readonly<Record<string, number>>;
    readonly constant: number;
  }
  const starts: readonly Start[] = [
    ...glasses.map((glass) => ({ ...glass, id: glass.title, constant: 0 })),
    ...wallModels.flatMap((m) =>
      m.channels
        .filter((c) => !['lab.a', 'lab.b'].includes(c.id))
        .map((c) => ({
          id: c.id,
          title: c.ink ? `${c.name} ink` : c.name,
          weights: { [c.id]: c.ink ? -1 : 1 },
          constant: c.ink ? 1 : 0
        }))
    )
  ];

  const variant = (start: Start): Step => ({
    ...step,
    enabled: true,
    params: { ...params, weights: start.weights, constant: start.constant, normalize: false }
  });
  const matches = (start: Start): boolean =>
    params.constant === start.constant &&
    weights.length === Object.keys(start.weights).length &&
    weights.every(([id, w]) => start.weights[id] === w);

  function choose(start: Start): void {
    session.changeStep(`Start from ${start.title.toLowerCase()}`, (draft) => {
      const p = paramsOf(op, draft);
      p.weights = { ...start.weights };
      p.constant = start.constant;
    });
  }

  function set(id: string, value: number): void {
    session.changeParams(op, `Grey from ${channelOf(id).name}`, (p) => (p.weights[id] = value), `mono ${id}`);
  }

  const newest = new Newest('the weights from the pins');
  let proposal = $state.raw<SeparateProposal | null>(null);

  /** Finds the weights from the pins and shows them on the picture, until they are taken or dismissed. */
  const propose = (): void =>
    newest.ask(async () => {
      problem = '';
      const readings = await bench.readPins(['want', 'avoid']);
      const samples = await bench.readSpread();
      proposal = separate(
        readings,
        samples.map(({ rgb }) => rgb)
      );
      if (proposal) bench.proposal = { ...step, params: { ...params, ...asParams(proposal) } };
      else problem = new Set(readings.map(({ role }) => role)).size < 2 ? BESIDE : NOTHING_LIGHTER;
    });
  const BESIDE = 'A pin to want and a pin to avoid must both lie in the picture.';
  const NOTHING_LIGHTER =
    'No weights of red, green and blue make the wanted pin lighter than the avoided one.';
  const asParams = ({ weights }: SeparateProposal): Partial<MonoParams> => ({
    weights: { ...weights },
    constant: 0,
    normalize: false
  });

  function dismiss(): void {
    proposal = null;
    bench.proposal = null;
  }
  $effect(() => dismiss);

  function take(): void {
    const found = proposal;
    dismiss();
    if (found)
      session.changeStep('Separate the pins', (draft) => Object.assign(draft.params, asParams(found)));
  }

  const free = $derived(channels.filter((c) => !(c.id in params.weights)));
</script>

<div class="panel">
  <Strip
    {session}
    {bench}
    label="Starting points"
    items={starts}
    chosen={matches}
    step={variant}
    onchoose={choose}
  >
    {#snippet title(start)}{start.title}{/snippet}
  </Strip>
  <header>
    <h3>Grey gets</h3>
    <span
      class="total mono"
      class:off
      title={off ? 'Greys change their tone where the total is not 100 %' : undefined}
    >
      {#if off}<WarningAlt size={16} aria-label="Total is not 100 %" />{/if}
      total {told(total * 100, Number.isInteger(Math.round(total * 1e4) / 100) ? 0 : 1)} %
    </span>
  </header>
  {#each weights as [id] (id)}
    <div class="weight">
      <StepAmount
        {session}
        {step}
        {op}
        path={['weights', id]}
        label={shortName(id)}
        name={`Grey from ${channelOf(id).name}`}
        colour={swatch(id)}
      />
      <button
        class="tool out"
        title="Leave this channel out"
        aria-label={`Leave out ${channelOf(id).name}`}
        onclick={() => session.changeParams(op, 'Leave a channel out', (p) => delete p.weights[id])}
        ><Close size={16} /></button
      >
    </div>
  {/each}
  <div class="weight">
    <StepAmount {session} {step} {op} path={['constant']} name="Grey gets a constant" colour="#9a9a9a" />
    <span></span>
  </div>
  <ClippedCount {session} {bench} channels={['rgb.r']} names={['grey']} />
  <div class="row">
    <PromptSelect
      label="Add a channel"
      items={free.map((c) => ({ id: c.id, title: `${c.sign} · ${c.name}` }))}
      onchoose={(id) => set(id, 0)}
    />
    <Toggle
      size="sm"
      hideLabel
      labelText="Scale to 100 %"
      labelA="Scale to 100 %"
      labelB="Scale to 100 %"
      toggled={params.normalize}
      on:toggle={({ detail }) => {
        if (detail.toggled !== params.normalize)
          session.changeParams(op, 'Scale to 100 %', (p) => (p.normalize = detail.toggled));
      }}
    />
  </div>
  <button
    class="tool raised wide"
    aria-pressed={proposal !== null}
    disabled={!canSeparate}
    onclick={() => (proposal ? dismiss() : propose())}>Separate the pins</button
  >
  {#if proposal}
    <Proposal label="Proposed weights" ontake={take} ondismiss={dismiss}>
      <p class="mono">
        R {told(100 * proposal.weights['rgb.r'], 1)}, G {told(100 * proposal.weights['rgb.g'], 1)}, B {told(
          100 * proposal.weights['rgb.b'],
          1
        )} %
      </p>
      <p>
        The wanted becomes <b class="mono">{told(100 * proposal.want, 0)} %</b> light, the avoided
        <b class="mono">{told(100 * proposal.avoid, 0)} %</b>; about
        <b class="mono">{told(100 * proposal.clipped, 0)} %</b> of the picture clips.
      </p>
    </Proposal>
  {/if}
  {#if problem}<p class="warn" role="alert">{problem}</p>{/if}
  {#if !canSeparate}
    <p class="quiet">
      Give one pin the role <i>want</i> and one <i>avoid</i>, and this finds the weights that make the wanted
      light and the avoided dark.
    </p>
  {/if}
</div>

<style>
  header {
    display: flex;
    align-items: center;
    justify-content: space-between;
    height: 28px;
  }
  h3 {
    margin: 0;
    font-weight: 600;
    font-size: 13px;
  }
  .total {
    display: inline-flex;
    gap: 5px;
    align-items: center;
    color: var(--k-text-quiet);
    font-size: 12px;
  }
  .off,
  .weight {
    display: grid;
    grid-template-columns: 1fr 24px;
  }
  .out {
    min-width: 24px;
    padding: 0;
  }
  .row {
    display: grid;
    grid-template-columns: 1fr;
    gap: 8px;
    margin: 8px 0;
  }
  .wide {
    width: 100%;
  }
  p {
    margin: 6px 0 0;
    font-size: 12px;
  }
</style>
