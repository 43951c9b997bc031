<script lang="ts">
  import { goto } from '$app/navigation';
  import { Button, InlineLoading } from 'carbon-components-svelte';
  import { leave, openLibrary, whenLeft } from '../services';
  import { letGoOfKept } from '../viewer/bitmaps';
  import BenchScreen from './BenchScreen.svelte';
  import { takeTold } from '../add-document';
  import { Session } from './session.svelte';

  let { id }: { id: string } = $props();

  let session = $state.raw<Session | null>(null);
  let problem = $state('');
  const leaving = new AbortController();

  async function open(): Promise<void> {
    try {
      // The same document may just have been left in this tab.
      await whenLeft();
      session = await Session.open(await openLibrary(), id, leaving.signal);
      const told = takeTold(id);
      if (told) session.notice = told;
    } catch (error) {
      if (!leaving.signal.aborted) problem = (error as Error).message;
    }
  }

  $effect(() => {
    void open();
    return () => {
      leaving.abort();
      letGoOfKept();
      if (session) leave(session.id, session.close());
    };
  });
</script>

{#if session}
  <BenchScreen {session} />
{:else}
  <main class="state">
    {#if problem}
      <div>
        <h1>The document can’t be opened</h1>
        <p>{problem}</p>
        <Button kind="secondary" on:click={() => goto('/')}>Go to Documents</Button>
      </div>
    {:else}
      <div>
        <InlineLoading description="Opening the picture …" />
        <Button kind="ghost" size="small" on:click={() => goto('/')}>Cancel</Button>
      </div>
    {/if}
  </main>
{/if}

<style>
  .state {
    display: grid;
    place-content: center;
    height: 100vh;
  }
  h1 {
    font-size: 20px;
    font-weight: 600;
  }
  p {
    max-width: 480px;
    margin: 12px 0 20px;
    color: var(--k-text-quiet);
  }
</style>
