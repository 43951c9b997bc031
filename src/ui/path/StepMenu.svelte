<script lang="ts">
  import { tick } from 'svelte';
  import { OverflowMenu, OverflowMenuItem } from 'carbon-components-svelte';
  import { groupAround, listAround, titleOf, type Step } from '$core/document';
  import { opOf } from '$core/ops';
  import type { BenchState } from '../bench/bench.svelte';
  import { stepRemoval } from '../bench/removal';
  import type { Session } from '../bench/session.svelte';
  import { duplicateStep, groupSteps, moveInto, takeApart } from '../bench/steps';
  import { versionFrom } from '../bench/versions';
  import type { ShelfLook } from '../looks/shelf.svelte';

  interface Props {
    session: Session;
    bench: BenchState;
    step: Step;
    /** One of several that are chosen. */
    among: boolean;
    onrename: () => void;
    onselect: () => void;
    oncopy?: (steps: readonly Step[]) => void;
    onpaste?: () => void;
  }
  let { session, bench, step, among, onrename, onselect, oncopy, onpaste }: Props = $props();

  const op = $derived(opOf(step.op));
  /** The groups before and after it, which could take it in, and at what place. */
  const besides = $derived.by(() => {
    const list = listAround(session.cursor.picture.steps, step.id) ?? [];
    const own = list.indexOf(step);
    return [
      { group: list[own - 1], at: Infinity, where: 'before' },
      { group: list[own + 1], at: 0, where: 'after' }
    ].filter(({ group }) => group && opOf(group.op).inside);
  });

  $effect(() => void bench.shelf.load());

  function keep(): void {
    if (!among) onselect();
    bench.shelf.keeping = true;
  }

  function bake(): void {
    const steps = among ? bench.chosen : [step];
    if (!among) onselect();
    // What was going on ends with the step that was selected before.
    void tick().then(() => (bench.baking = steps.map(({ id }) => id)));
  }

  function use(one: ShelfLook): void {
    onselect();
    bench.shelf.useSettings(session, one);
  }

  /** Shows the picture up to this step. */
  function solo(): void {
    onselect();
    bench.outTab = 'after';
  }
</script>

<OverflowMenu portalMenu size="sm" flipped aria-label={`What to do with ${titleOf(step)}`}>
  <OverflowMenuItem text="Rename" on:click={onrename} />
  <OverflowMenuItem text="Duplicate" on:click={() => duplicateStep(session, step)} />
  <OverflowMenuItem text="Show up to here" on:click={solo} />
  <OverflowMenuItem
    text="Show beside"
    on:click={() => bench.compare.add({ picture: session.cursor.picture.id, at: { after: step.id } })}
  />
  <OverflowMenuItem text="New version from here on" on:click={() => versionFrom(session, step)} />
  <OverflowMenuItem text="Copy" on:click={() => oncopy?.(among ? bench.chosen : [step])} />
  <OverflowMenuItem text="Copy whole path" on:click={() => oncopy?.(session.cursor.picture.steps)} />
  <OverflowMenuItem text="Keep as a look …" on:click={keep} />
  {#each bench.shelf.settingsOf(step.op) as one (one.id)}
    <OverflowMenuItem text={`Settings “${one.look.name}”`} on:click={() => use(one)} />
  {/each}
  {#if !groupAround(session.cursor.picture.steps, step.id)}
    <OverflowMenuItem
      text={among ? `Make a LUT of these ${bench.chosen.length} steps …` : 'Make a LUT of it …'}
      on:click={bake}
    />
  {/if}
  <OverflowMenuItem text="Paste after" on:click={() => (onselect(), onpaste?.())} />
  {#if among}
    <OverflowMenuItem
      hasDivider
      text={`Group these ${bench.chosen.length} steps`}
      on:click={() => groupSteps(session, bench.chosen)}
    />
  {:else if op.kind !== 'geometry'}
    <OverflowMenuItem
      hasDivider
      text="Put into a group of its own"
      on:click={() => groupSteps(session, [step])}
    />
    {#each besides as { group, at, where } (where)}
      <OverflowMenuItem
        text={`Into “${titleOf(group)}” ${where}`}
        on:click={() => moveInto(session, step.id, group.id, at)}
      />
    {/each}
  {/if}
  {#if op.inside}
    <OverflowMenuItem text="Take apart" on:click={() => takeApart(session, step)} />
  {/if}
  <OverflowMenuItem
    hasDivider
    danger
    text="Remove"
    on:click={() => (bench.removal = stepRemoval(session, step))}
  />
</OverflowMenu>
