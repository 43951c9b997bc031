<script lang="ts">
  import { wallModels } from '$core/colour';
  import { arrowStep } from '../arrows';
  import { swatch } from '../channel-colour';

  let { channel = $bindable() }: { channel: string } = $props();

  const ids = wallModels.flatMap((model) => model.channels.map((c) => c.id));
  let bar: HTMLElement | undefined = $state();

  function onkeydown(event: KeyboardEvent): void {
    const [right, down] = arrowStep(event);
    if (right + down === 0) return;
    event.preventDefault();
    event.stopPropagation();
    const at = Math.max(0, ids.indexOf(channel));
    channel = ids[(at + right + down + ids.length) % ids.length];
    bar?.querySelector<HTMLElement>(`[data-of="${channel}"]`)?.focus();
  }
</script>

<div
  class="bar"
  role="radiogroup"
  tabindex="-1"
  aria-label="The channel seen large"
  bind:this={bar}
  {onkeydown}
>
  {#each wallModels as model (model.id)}
    <span class="model">
      {#each model.channels as { id, sign, name } (id)}
        <button
          class="tool"
          role="radio"
          aria-checked={channel === id}
          aria-label={`${model.title} ${name}`}
          title={name}
          data-of={id}
          tabindex={channel === id || (id === ids[0] && !ids.includes(channel)) ? 0 : -1}
          onclick={() => (channel = id)}
        >
          {sign}<i style:background={swatch(id)}></i>
        </button>
      {/each}
    </span>
  {/each}
</div>

<style>
  .bar {
    display: flex;
    flex: none;
    align-items: center;
    justify-content: space-between;
    height: 32px;
    padding: 0 6px;
    border-bottom: 1px solid var(--k-line);
  }
  .model {
    display: flex;
  }
  .tool {
    position: relative;
    min-width: 25px;
    padding: 0 0 3px;
  }
  i {
    position: absolute;
    bottom: 3px;
    left: 50%;
    width: 8px;
    height: 3px;
    margin-left: -4px;
  }
  [aria-checked='true'] {
    background: #3a3a3a;
    color: var(--k-bone);
    font-weight: 600;
  }
</style>
