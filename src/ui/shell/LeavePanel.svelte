<script lang="ts">
  import { beforeNavigate, goto } from '$app/navigation';
  import { Button, InlineNotification, Modal } from 'carbon-components-svelte';
  import type { Session } from '../bench/session.svelte';
  import { exportDocument } from '../export-document';
  import Dialog from './Dialog.svelte';

  let { session }: { session: Session } = $props();

  /** Where the person wants to go. */
  let to = $state.raw<URL | null>(null);
  let anyway = false;
  let problem = $state('');

  // What is not written yet is written first; where that fails, the person is asked.
  beforeNavigate((navigation) => {
    if (anyway || navigation.type === 'leave' || !navigation.to) return;
    if (!session.presence.editing || session.saving.state === 'saved') return;
    navigation.cancel();
    const { url } = navigation.to;
    void session.saving.flush().then(() => {
      if (session.saving.state === 'failed') to = url;
      else void goto(url);
    });
  });

  function leave(): void {
    if (!to) return;
    anyway = true;
    session.saving.drop();
    void goto(to);
  }

  async function keepAsFile(): Promise<void> {
    problem = '';
    try {
      await exportDocument(await session.asBundle());
    } catch (error) {
      problem = (error as Error).message;
    }
  }
</script>

<Dialog open={to !== null}>
  <Modal
    open={to !== null}
    size="sm"
    danger
    modalHeading="Leave without saving?"
    primaryButtonText="Leave without saving"
    secondaryButtonText="Stay"
    on:click:button--secondary={() => (to = null)}
    on:submit={leave}
    on:close={() => (to = null)}
  >
    {#if to}<p>{session.saving.problem}</p>{/if}
    <Button kind="tertiary" size="small" on:click={() => void keepAsFile()}
      >Export the document as a file</Button
    >
    {#if problem}
      <InlineNotification
        lowContrast
        kind="error"
        title="It was not exported."
        subtitle={problem}
        on:close={() => (problem = '')}
      />
    {/if}
  </Modal>
</Dialog>

<style>
  p {
    margin: 0 0 16px;
  }
</style>
