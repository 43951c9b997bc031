<script lang="ts">
  import { goto } from '$app/navigation';
  import { Button, InlineLoading } from 'carbon-components-svelte';
  import { leave, openLibrary } from '../services';
  import BenchScreen from './BenchScreen.svelte';
  import { Session } from './session.svelte';

  let { id }: { id: string } = $props();

  let session = $state.raw<Session | null>(null);
  let problem = $state('');
  const leaving = new AbortController();

  async function open(): Promise<void> {
    try {
      await onlyHere();
      session = await Session.open(await openLibrary(), id, leaving.signal);
    } catch (error) {
      if (!leaving.signal.aborted) problem = (error as Error).message;
    }
  }

  const WAIT = 3000;

  /** Two pages on one document would write over each other: the second waits a moment, then says so. */
  async function onlyHere(): Promise<void> {
    const waiting = AbortSignal.any([leaving.signal, AbortSignal.timeout(WAIT)]);
    await new Promise<void>((resolve, reject) => {
      navigator.locks
        .request(`kromba-document-${id}`, { signal: waiting }, () => {
          resolve();
          return new Promise<void>((release) => leaving.signal.addEventListener('abort', () => release()));
        })
        .catch(() =>
          reject(
            new Error(
              'This document is open in another tab. Go on there, or close that tab and open it again here.'
            )
          )
        );
    });
  }

  $effect(() => {
    void open();
    return () => {
      leaving.abort();
      if (session) leave(session.close());
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
        <Button kind="secondary" on:click={() => goto('/')}>Go to the light table</Button>
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
