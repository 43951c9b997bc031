<script lang="ts">
  import { goto, preloadCode } from '$app/navigation';
  import { InlineLoading, InlineNotification, NotificationActionButton } from 'carbon-components-svelte';
  import FolderOpen from 'carbon-icons-svelte/lib/FolderOpen.svelte';
  import Layers from 'carbon-icons-svelte/lib/Layers.svelte';
  import type { Library, StoredDocument } from '$storage/library';
  import { addDocument, addExposures, type NamedFile } from '../add-document';
  import { openLibrary, whenLeft } from '../services';
  import DocumentCard from './DocumentCard.svelte';
  import DropVeil from './DropVeil.svelte';
  import OpenButton from './OpenButton.svelte';
  import SampleList, { type Sample } from './SampleList.svelte';

  let library = $state.raw<Library | null>(null);
  let documents = $state.raw<StoredDocument[]>([]);
  let samples = $state.raw<Sample[]>([]);
  let busy = $state('');
  let problems = $state.raw<{ title: string; text: string }[]>([]);
  let deleted = $state.raw<StoredDocument | null>(null);
  let over = $state(false);
  /** Several files are dragged, and over which half of the table. */
  let several = $state(false);
  let right = $state(false);
  const IMAGES = '.png,.jpg,.jpeg,.tif,.tiff,image/png,image/jpeg,image/tiff';

  async function start(): Promise<void> {
    if (!window.crossOriginIsolated) {
      const text =
        'This page came without the headers that shared memory needs. Start Kromba with “npm run demo”.';
      problems = [{ title: 'Pictures can’t be opened.', text }];
      return;
    }
    try {
      library = await openLibrary();
      await whenLeft();
      await library.purge(Date.now());
      documents = await library.list();
    } catch (error) {
      problems = [{ title: 'No storage.', text: (error as Error).message }];
    }
    const answer = await fetch('/samples').catch(() => null);
    if (answer?.ok) samples = (await answer.json()) as Sample[];
  }
  $effect(() => void start());
  // The bench's own code is there before a picture is.
  $effect(() => {
    const asked = requestIdleCallback(() => void preloadCode('/work/any').catch(() => undefined));
    return () => cancelIdleCallback(asked);
  });

  /** Adds files one after another; what can't be taken is told, the rest goes on. */
  async function add(files: readonly File[]): Promise<void> {
    if (!library || files.length === 0) return;
    const found: typeof problems = [];
    let last: StoredDocument | null = null;
    for (const [i, file] of files.entries()) {
      busy =
        files.length > 1 ? `Opening ${file.name} (${i + 1} of ${files.length}) …` : `Opening ${file.name} …`;
      try {
        const { stored, thumbnail } = await addDocument(library, { name: file.name, file });
        last = stored;
        if (files.length > 1) await thumbnail.catch(() => undefined);
      } catch (error) {
        found.push({
          title: `“${file.name}” was not opened.`,
          text: `${(error as Error).message} Nothing was added.`
        });
      }
    }
    busy = '';
    problems = found;
    if (last && files.length === 1) await goto(`/work/${last.id}`);
    else documents = await library.list();
  }

  async function addSample({ title, files }: Sample): Promise<void> {
    if (!library) return;
    busy = `Opening ${title} …`;
    try {
      const given: NamedFile[] = [];
      for (const name of files) {
        const answer = await fetch(`/samples/${name}`);
        if (!answer.ok) throw new Error('The sample is not on this server. Start it with “npm run demo”.');
        given.push({ name, file: await answer.blob() });
      }
      const { stored } =
        given.length > 1
          ? await addExposures(library, given, title)
          : await addDocument(library, given[0], title);
      await goto(`/work/${stored.id}`);
    } catch (error) {
      problems = [{ title: `“${title}” was not opened.`, text: (error as Error).message }];
      documents = await library.list();
    } finally {
      busy = '';
    }
  }

  /** Opens files as exposures of one scene: one document. */
  async function addScene(files: readonly File[]): Promise<void> {
    if (!library || files.length === 0) return;
    busy = `Opening ${files.length} exposures …`;
    problems = [];
    try {
      const given = files.map((file) => ({ name: file.name, file }));
      const title = files[0].name.replace(/\.[^.]+$/, '');
      const { stored } = await addExposures(library, given, title);
      await goto(`/work/${stored.id}`);
    } catch (error) {
      problems = [
        { title: 'The exposures were not opened.', text: `${(error as Error).message} Nothing was added.` }
      ];
    } finally {
      busy = '';
    }
  }

  function onpaste(event: ClipboardEvent): void {
    const files = [...(event.clipboardData?.files ?? [])];
    if (files.length) void add(files);
    else if (!(event.target instanceof HTMLInputElement)) {
      problems = [
        {
          title: 'Nothing to paste.',
          text: 'The clipboard holds no picture. Copy a picture or a file first.'
        }
      ];
    }
  }

  async function remove(stored: StoredDocument): Promise<void> {
    await library?.remove(stored.id);
    deleted = stored;
    documents = (await library?.list()) ?? [];
  }

  async function bringBack(): Promise<void> {
    if (!library || !deleted) return;
    await library.restore(deleted.id);
    deleted = null;
    documents = await library.list();
  }

  async function change(work: (library: Library) => Promise<unknown>): Promise<void> {
    if (!library) return;
    try {
      await work(library);
    } catch (error) {
      problems = [{ title: 'That could not be done.', text: (error as Error).message }];
    }
    documents = await library.list();
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
    const files = [...(event.dataTransfer?.files ?? [])];
    if (right && files.length > 1) void addScene(files);
    else void add(files);
  }}
/>

<main class:over>
  <header>
    <h1>Kromba</h1>
    <span class="quiet">Light table</span>
    <span class="space"></span>
    {#if busy}<InlineLoading description={busy} />{/if}
    <OpenButton
      label="Exposures of one scene"
      title="Several exposures of one scene become one document"
      kind="ghost"
      icon={Layers}
      accept={IMAGES}
      disabled={!library || busy !== ''}
      onopen={(files) => void addScene(files)}>Open exposures</OpenButton
    >
    <OpenButton
      label="Pictures or Kromba documents"
      icon={FolderOpen}
      accept=".kromba,{IMAGES}"
      disabled={!library || busy !== ''}
      onopen={(files) => void add(files)}>Open pictures</OpenButton
    >
  </header>
  <div class="messages" aria-live="polite">
    {#each problems as { title, text } (title + text)}
      <InlineNotification
        lowContrast
        kind="error"
        {title}
        subtitle={text}
        on:close={() => (problems = problems.filter((p) => p.title !== title))}
      />
    {/each}
  </div>
  {#if documents.length}
    <ul class="documents" aria-label="Documents">
      {#each documents as stored (stored.id)}
        <DocumentCard
          {stored}
          {library}
          onrename={(name) => void change((l) => l.rename(stored.id, name))}
          onduplicate={() => void change((l) => l.duplicate(stored.id))}
          onremove={() => void remove(stored)}
          onproblem={(text) => (problems = [{ title: `“${stored.document.name}” was not exported.`, text }])}
        />
      {/each}
    </ul>
  {:else if library}
    <section class="empty">
      <h2>Put a picture on the table</h2>
      <p>
        Drop PNG, JPEG or TIFF files anywhere here, paste one, or open them with the button above. A
        <span class="mono">.kromba</span> document opens the same way. Everything stays in this browser.
      </p>
    </section>
  {/if}
  {#if samples.length}
    <SampleList {samples} disabled={!library || busy !== ''} onchoose={(sample) => void addSample(sample)} />
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
          <NotificationActionButton on:click={() => void bringBack()}>Undo</NotificationActionButton>
        </svelte:fragment>
      </InlineNotification>
    </div>
  {/if}
</main>

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
