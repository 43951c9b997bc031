<script lang="ts">
  import { trouble } from '../bench/trouble.svelte';
  import Notice from './Notice.svelte';

  const MOST_NAMED = 3;
  const what = $derived([...trouble.told.keys()]);
  const why = $derived([...trouble.told.values()][0] ?? '');
  const names = $derived(
    what.length > MOST_NAMED
      ? `${what.slice(0, MOST_NAMED).join(', ')} and ${what.length - MOST_NAMED} more`
      : what.join(', ')
  );
  const action = { title: 'Try again', run: () => trouble.again() };
</script>

{#if what.length}
  <Notice
    kind="error"
    title={`Not computed: ${names}.`}
    text={`${why} What is shown of it is from before; the document itself is whole.`}
    {action}
  />
{/if}
