<script lang="ts">
  import { trouble } from '../bench/trouble.svelte';
  import { someOf } from '../some-of';
  import Notice from './Notice.svelte';

  const what = $derived([...trouble.told.keys()]);
  const why = $derived([...trouble.told.values()][0] ?? '');
  const action = { title: 'Try again', run: () => trouble.again() };
</script>

{#if what.length}
  <Notice
    kind="error"
    title={`Not computed: ${someOf(what)}.`}
    text={`${why} What is shown of it is from before; the document itself is whole.`}
    {action}
  />
{/if}
