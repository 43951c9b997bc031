<script lang="ts">
  import { SvelteMap } from 'svelte/reactivity';
  import { preloadCode } from '$app/navigation';
  import {
    Button,
    InlineLoading,
    InlineNotification,
    Modal,
    NotificationActionButton
  } from 'carbon-components-svelte';
  import FolderOpen from 'carbon-icons-svelte/lib/FolderOpen.svelte';
  import Layers from 'carbon-icons-svelte/lib/Layers.svelte';
  import { keptSince } from '$storage/kept';
  import { StorageError, type Library, type StoredDocument } from '$storage/library';
  import type { Request } from '$storage/tabs';
  import { IMAGE_FILES, IMAGE_FORMATS } from '../file-kinds';
  import { beingLeft, keepFrames, openLibrary, tabs, whenLeft } from '../services';
  import Dialog from '../shell/Dialog.svelte';
  import { droppedFiles } from '../shell/dropped-files';
  import { keepFocus } from '../shell/focus';
  import DeletedList from './DeletedList.svelte';
  import DocumentCard from './DocumentCard.svelte';
  import DropVeil from './DropVeil.svelte';
  import { Opening, type Problem } from './opening.svelte';
  import OpenButton from './OpenButton.svelte';
  import SampleList, { type Sample } from './SampleList.svelte';

  let library = $state.raw<Library | null>(null);
  /** None before they are known. */
  let documents = $state.raw<StoredDocument[] | null>(null);
  let samples = $state.raw<Sample[]>([]);
  let opening = $state.raw<Opening | null>(null);
  /** What is given before the library is open waits for it. */
  let begin: (opening: Opening) => void = () => undefined;
  const begun = new Promise<Opening>((resolve) => (begin = resolve));
  let problems = $state.raw<Problem[]>([]);
  /** What was deleted last, for its undo. */
  let deleted = $state.raw<StoredDocument | null>(null);
  let deletedOnes = $state.raw<StoredDocument[]>([]);
  /** Documents that are to be ended for good, once that is confirmed; with why it is asked. */
  let ending = $state.raw<{ documents: StoredDocument[]; why: string } | null>(null);
  let over = $state(false);
  /** Several files are dragged, and over which half of the table. */
  let several = $state(false);
  let right = $state(false);
  const busy = $derived(opening?.busy ?? '');
  /** What went wrong here, and with what was to be opened. */
  const told = $derived([...problems, ...(opening?.problems ?? [])]);

  async function start(): Promise<void> {
    if (!window.crossOriginIsolated) {
      const text =
        'This page came without the headers that shared memory needs. Start Kromba with “npm run demo”.';
      problems = [{ title: 'Pictures can’t be opened.', text }];
      return;
    }
    try {
      library = await openLibrary();
      opening = new Opening(library, refresh);
      begin(opening);
      // What was left just now may take a while to be put away: something may still be coming into it.
      const late = beingLeft();
      await refresh();
      await whenLeft();
      // The frames may be those of a document that was opened meanwhile.
      if (gone) return;
      keepFrames([]);
      late.forEach(changed);
      await refresh();
      await tabs.tidy(library, keptSince(Date.now()));
      await refresh();
    } catch (error) {
      problems = [{ title: 'No storage.', text: (error as Error).message }];
    }
  }
  async function readSamples(): Promise<void> {
    const answer = await fetch('/samples').catch(() => null);
    if (answer?.ok) samples = (await answer.json()) as Sample[];
  }
  $effect(() => {
    void start();
    void readSamples();
  });
  $effect(() =>
    tabs.onChange((id) => {
      changed(id);
      void refresh();
    })
  );
  /** How often each document was changed since the page is open: its small picture is read anew with that. */
  const changes = new SvelteMap<string, number>();
  const changed = (id: string): void => void changes.set(id, (changes.get(id) ?? 0) + 1);
  let gone = false;
  $effect(() => () => {
    gone = true;
    opening?.end();
  });

  /** The documents as they now lie in the library; asked for while they are read, they are read once more. */
  let reading: Promise<void> | null = null;
  let again = false;
  function refresh(): Promise<void> {
    again = true;
    reading ??= read().finally(() => (reading = null));
    return reading;
  }

  async function read(): Promise<void> {
    while (library && again) {
      again = false;
      [documents, deletedOnes] = await Promise.all([library.list(), library.deleted()]);
    }
    if (deleted && !deletedOnes.some((d) => d.id === deleted!.id)) deleted = null;
  }
  // The bench's own code is there before a picture is.
  $effect(() => {
    const asked = requestIdleCallback(() => void preloadCode('/work/any').catch(() => undefined));
    return () => cancelIdleCallback(asked);
  });

  function close(title: string): void {
    problems = problems.filter((p) => p.title !== title);
    if (opening) opening.problems = opening.problems.filter((p) => p.title !== title);
  }

  function onpaste(event: ClipboardEvent): void {
    const files = [...(event.clipboardData?.files ?? [])];
    if (files.length) void begun.then((it) => it.add(files));
    else if (!(event.target instanceof HTMLInputElement)) {
      problems = [
        {
          title: 'Nothing to paste.',
          text: 'The clipboard holds no picture. Copy a picture or a file first.'
        }
      ];
    }
  }

  /** Deletes a document; where there is no room even to note that, it can be ended for good, which needs none. */
  async function remove(stored: StoredDocument): Promise<void> {
    try {
      await through(stored.id, { what: 'remove' });
      deleted = stored;
    } catch (error) {
      const full = error instanceof StorageError && error.full;
      const why = 'The space is so full that it can’t be kept under “Deleted”. It can be deleted for good.';
      if (full) ending = { documents: [stored], why };
      else problems = [{ title: 'It was not deleted.', text: (error as Error).message }];
    }
    await refresh();
  }

  function through(id: string, request: Request): Promise<void> {
    return tabs.through(id, request, async () => {
      if (request.what === 'rename') await library!.rename(id, request.name);
      else if (request.what === 'remove') await library!.remove(id);
      else if (request.what === 'restore') await library!.restore(id);
      else if (request.what === 'end') await library!.end([id]);
    });
  }

  async function bringBack(stored: StoredDocument): Promise<void> {
    deleted = null;
    await change(() => through(stored.id, { what: 'restore' }));
  }

  async function endForGood(): Promise<void> {
    const asked = ending?.documents ?? [];
    ending = null;
    for (const { id } of asked) await change(() => through(id, { what: 'end' }));
    if (library) await change((l) => tabs.sweep(l));
  }

  async function take(dropped: Promise<readonly File[]>, asScene: boolean): Promise<void> {
    const [files, it] = await Promise.all([dropped, begun]);
    if (asScene && files.length > 1) await it.addScene(files);
    else await it.add(files);
  }

  async function change(work: (library: Library) => Promise<unknown>): Promise<void> {
    if (!library) return;
    try {
      await work(library);
    } catch (error) {
      problems = [{ title: 'That could not be done.', text: (error as Error).message }];
    }
    await refresh();
  }

  async function duplicate({ id }: StoredDocument): Promise<void> {
    await tabs.through(id, { what: 'flush' }, () => Promise.resolve());
    const copy = await library!.duplicate(id);
    tabs.tell(copy.id);
  }
</script>

<svelte:window
  {onpaste}
  ondragover={(event) => {
    event.preventDefault();
    over = true;
    several = (event.dataTransfer?.items.length ?? 0) > 1;
    right = several && event.clientX > window.innerWidth / 2;
  }}
  ondragleave={(event) => {
    if (event.relatedTarget === null) over = false;
  }}
  ondrop={(event) => {
    event.preventDefault();
    over = false;
    void take(droppedFiles(event), right);
  }}
/>

<main class:over {@attach keepFocus}>
  <header>
    <h1>Kromba</h1>
    <span class="quiet">Documents</span>
    <span class="space"></span>
    <a class="many" href="/many">Many files</a>
    {#if busy}
      <InlineLoading description={busy} />
      <Button kind="ghost" size="small" on:click={() => opening?.cancel()}>Cancel</Button>
    {/if}
    <OpenButton
      label="Exposures of one scene"
      title="Several exposures of one scene become one document"
      kind="ghost"
      icon={Layers}
      accept={IMAGE_FILES}
      disabled={!opening || busy !== ''}
      onopen={(files) => void begun.then((it) => it.addScene(files))}>Open exposures</OpenButton
    >
    <OpenButton
      label="Pictures or Kromba documents"
      icon={FolderOpen}
      accept=".kromba,{IMAGE_FILES}"
      disabled={!opening || busy !== ''}
      onopen={(files) => void begun.then((it) => it.add(files))}>Open pictures</OpenButton
    >
  </header>
  <div class="messages" aria-live="polite">
    {#each told as { title, text } (title + text)}
      <InlineNotification lowContrast kind="error" {title} subtitle={text} on:close={() => close(title)} />
    {/each}
  </div>
  {#if documents?.length}
    <ul class="documents" aria-label="Documents">
      {#each documents as stored (stored.id)}
        <DocumentCard
          {stored}
          changes={changes.get(stored.id) ?? 0}
          {library}
          onrename={(name) => void change(() => through(stored.id, { what: 'rename', name }))}
          onduplicate={() => void change(() => duplicate(stored))}
          onremove={() => void remove(stored)}
          onproblem={(text) => (problems = [{ title: `“${stored.document.name}” was not exported.`, text }])}
        />
      {/each}
    </ul>
  {:else if documents}
    <section class="empty">
      <h2>No documents yet</h2>
      <p>
        Drop {IMAGE_FORMATS} files anywhere here, paste one, or open them with the button above. A
        <span class="mono">.kromba</span> document opens the same way. Everything stays in this browser.
      </p>
    </section>
  {/if}
  {#if deletedOnes.length}
    <DeletedList
      documents={deletedOnes}
      onback={(stored) => void bringBack(stored)}
      onend={(documents) => (ending = { documents, why: '' })}
    />
  {/if}
  {#if samples.length}
    <SampleList
      {samples}
      disabled={!opening || busy !== ''}
      onchoose={(sample) => void begun.then((it) => it.addSample(sample))}
    />
  {/if}
  {#if over}<DropVeil {several} {right} />{/if}
  {#if deleted}
    <div class="toast">
      <InlineNotification
        lowContrast
        kind="info"
        title={`“${deleted.document.name}” is deleted.`}
        on:close={() => (deleted = null)}
      >
        <svelte:fragment slot="actions">
          <NotificationActionButton on:click={() => void bringBack(deleted!)}>Undo</NotificationActionButton>
        </svelte:fragment>
      </InlineNotification>
    </div>
  {/if}
</main>
<Dialog open={ending !== null}>
  <Modal
    open={ending !== null}
    size="sm"
    danger
    modalHeading={ending?.documents.length === 1
      ? `Delete “${ending.documents[0].document.name}” for good?`
      : `Delete ${ending?.documents.length ?? 0} documents for good?`}
    primaryButtonText="Delete for good"
    secondaryButtonText="Keep"
    on:click:button--secondary={() => (ending = null)}
    on:submit={() => void endForGood()}
    on:close={() => (ending = null)}
  >
    <p>{ending?.why || 'This can’t be undone.'}</p>
  </Modal>
</Dialog>

<style>
  main {
    min-height: 100vh;
    padding-bottom: 32px;
  }
  header {
    display: flex;
    align-items: center;
    gap: 14px;
    height: 48px;
    padding-left: 24px;
    border-bottom: 1px solid var(--k-line);
  }
  header :global(.bx--inline-loading) {
    width: auto;
  }
  header :global(.bx--btn) {
    height: 47px;
  }
  h1 {
    margin: 0;
    color: var(--k-bone);
    font-size: 16px;
    font-weight: 600;
  }
  .many {
    padding: 0 12px;
    color: var(--k-bone);
    font-size: 12px;
    text-decoration: none;
  }
  .many:hover {
    text-decoration: underline;
  }
  .space {
    flex: 1;
  }
  .messages {
    padding: 0 24px;
  }
  .messages :global(.bx--inline-notification) {
    max-width: 900px;
    margin: 12px 0 0;
  }
  .documents {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(260px, 1fr));
    gap: 20px;
    margin: 0;
    padding: 24px;
    list-style: none;
  }
  .empty {
    display: grid;
    place-content: center;
    min-height: 200px;
    text-align: center;
  }
  .empty p {
    max-width: 460px;
    margin-top: 8px;
    color: var(--k-text-quiet);
  }
  h2 {
    margin: 0;
    font-size: 16px;
    font-weight: 600;
  }
  .toast {
    position: fixed;
    right: 16px;
    bottom: 16px;
  }
</style>
