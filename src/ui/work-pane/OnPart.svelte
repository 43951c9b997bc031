<script lang="ts">
  import { Select, SelectItem } from 'carbon-components-svelte';
  import { modelOf, models, type ModelId } from '$core/colour';
  import { actsOn, type Step } from '$core/document';
  import { stepSchema } from '$core/document';
  import { opOf } from '$core/ops';
  import { controlsOf } from '$core/ops/controls';
  import { swatch } from '../channel-colour';
  import type { PanelProps } from './panels';

  let { session, bench, step }: PanelProps = $props();

  const on = $derived(actsOn(step));
  const model = $derived(modelOf(on.model));
  const plane = $derived(opOf(step.op).kind === 'plane');
  let refused = $state('');

  /** Sets the step's On; what it holds for channels of another model is let go where that is what stands in the way. */
  function set(next: Step['on']): void {
    refused = '';
    const whole = { ...step, on: next };
    const keeps = stepSchema.safeParse(whole).success;
    const fresh = keeps ? step.params : withoutChannels(step);
    const result = stepSchema.safeParse({ ...whole, params: fresh });
    if (!result.success) {
      refused = result.error.issues[0].message;
      return;
    }
    session.changeStep('On other channels', (draft) => {
      draft.on = next && { model: next.model, channels: [...next.channels] };
      if (!keeps) draft.params = result.data.params;
    });
    const first = modelOf(next!.model).channels.find((c) => next!.channels.includes(c.letter));
    if (first) bench.channel = first.id;
  }

  /** Parameters without those that belong to single channels. */
  function withoutChannels({ op, params }: Step): object {
    const usual = opOf(op).params.parse({}) as Record<string, unknown>;
    const numbers = controlsOf(opOf(op)).filter((control) => control.each);
    const each = ['curves', 'channels', ...numbers.map(({ key }) => key)];
    return Object.fromEntries(
      Object.entries(params).map(([key, value]) => [
        key,
        each.includes(key) && typeof value === 'object' ? usual[key] : value
      ])
    );
  }

  function setModel(id: ModelId): void {
    if (id === on.model) return;
    const channels = modelOf(id).channels.map((c) => c.letter);
    set({ model: id, channels: id === 'lab' && plane ? ['l'] : channels });
  }

  function toggle(letter: string): void {
    const channels = model.channels
      .map((c) => c.letter)
      .filter((l) => (l === letter) !== on.channels.includes(l));
    if (channels.length) set({ model: on.model, channels });
  }
</script>

<Select
  size="sm"
  labelText="Model"
  selected={on.model}
  on:update={({ detail }) => setModel(detail as ModelId)}
>
  {#each models as { id, title } (id)}<SelectItem value={id} text={title} />{/each}
</Select>
<div class="channels" role="group" aria-label="Channels">
  {#each model.channels as c (c.id)}
    <button
      class="tool raised"
      aria-pressed={on.channels.includes(c.letter)}
      title={`${c.name}${on.channels.includes(c.letter) && on.channels.length === 1 ? ': a step needs one channel' : ''}`}
      aria-label={c.name}
      onclick={() => toggle(c.letter)}
    >
      <span class="dot" style:background={swatch(c.id)}></span>{c.sign}
    </button>
  {/each}
</div>
<p class="quiet">
  {plane
    ? 'Each channel is worked on as a grey picture of its own; the others stay.'
    : 'Only these channels of the result are kept; the others stay.'}
</p>
{#if refused}<p class="warn">{refused}</p>{/if}

<style>
  .channels {
    display: flex;
    gap: 6px;
    margin-top: 8px;
  }
  .channels .tool {
    flex: 1;
  }
  .dot {
    width: 8px;
    height: 8px;
    border-radius: 50%;
  }
  p {
    margin: 6px 0 0;
    font-size: 12px;
  }
</style>
