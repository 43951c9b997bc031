<script lang="ts">
  import Add from 'carbon-icons-svelte/lib/Add.svelte';
  import { opOf } from '$core/ops';
  import type { Session } from '../bench/session.svelte';
  import { addMix, removeStep, toggleStep } from '../bench/steps';
  import StepChip from './StepChip.svelte';

  let { session }: { session: Session } = $props();

  const frame = $derived(
    session.document.frames.find(
      (f) => session.picture.head.kind === 'frame' && f.id === session.picture.head.frame
    )
  );
  const megapixels = $derived(((session.opened.frame.width * session.opened.frame.height) / 1e6).toFixed(1));

  /** Active steps up to and with the step at `index`. */
  const activeThrough = (index: number): typeof session.active =>
    session.picture.steps.slice(0, index + 1).filter((s) => s.enabled);
</script>

<nav class="path" aria-label="Path">
  <ol>
    <li>
      <StepChip
        {session}
        title="Source"
        subtitle={`${megapixels} MP · ${frame?.file ?? ''}`}
        steps={[]}
        selected={session.step === null}
        onselect={() => session.select(null)}
      />
    </li>
    {#each session.picture.steps as step, index (step.id)}
      <li>
        <StepChip
          {session}
          title={step.name ?? opOf(step.op).title}
          subtitle={opOf(step.op).sentence(step.params)}
          steps={activeThrough(index)}
          selected={session.step?.id === step.id}
          enabled={step.enabled}
          onselect={() => session.select(step.id)}
          ontoggle={() => toggleStep(session, step)}
          onremove={() => removeStep(session, step)}
        />
      </li>
    {/each}
    <li>
      <button
        class="tool add"
        title="Add a mix after the selected step"
        aria-label="Add a mix"
        onclick={() => addMix(session)}
      >
        <Add size={20} />
      </button>
    </li>
  </ol>
</nav>

<style>
  .path {
    height: 84px;
    overflow-x: auto;
    background: var(--k-surface);
    border-bottom: 1px solid var(--k-line);
  }
  ol {
    display: flex;
    align-items: center;
    height: 100%;
    margin: 0;
    padding: 0 12px;
    list-style: none;
  }
  li {
    display: flex;
    align-items: center;
  }
  li + li::before {
    content: '';
    width: 16px;
    height: 1px;
    background: #555;
  }
  .add {
    width: 44px;
    height: 44px;
    border: 1px dashed #666;
  }
</style>
