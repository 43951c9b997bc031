<script lang="ts">
  import type { SourceProps } from './controls';

  let { source, set }: SourceProps<'paint'> = $props();
</script>

<div class="row">
  <button
    class="tool raised"
    disabled={source.strokes.length === 0}
    onclick={() => set('Take back a stroke', (s) => s.strokes.pop())}>Take the last stroke back</button
  >
</div>
