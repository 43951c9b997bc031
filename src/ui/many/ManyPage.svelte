<script lang="ts">
  import {
    Button,
    Checkbox,
    InlineNotification,
    NumberInput,
    RadioButton,
    RadioButtonGroup,
    Select,
    SelectItem,
    SelectItemGroup,
    TextInput
  } from 'carbon-components-svelte';
  import FolderOpen from 'carbon-icons-svelte/lib/FolderOpen.svelte';
  import { atStrength } from '$core/document';
  import type { Folder } from '$storage/many-store';
  import DropVeil from '../documents/DropVeil.svelte';
  import OpenButton from '../documents/OpenButton.svelte';
  import { Opening } from '../documents/opening.svelte';
  import { IMAGE_FILES, IMAGE_FORMATS } from '../file-kinds';
  import { Shelf } from '../looks/shelf.svelte';
  import { bytesTold } from '../numbers';
  import { openLibrary, tabs, whenLeft } from '../services';
  import { droppedFiles } from '../shell/dropped-files';
  import OutputSettings, { settingsOf, usualOutput } from '../shell/OutputSettings.svelte';
  import { quoted, someOf } from '../some-of';
  import { wasCancelled } from '../was-cancelled';
  import ManyCard from './ManyCard.svelte';
  import { Many, outputsOf, type Item } from './many.svelte';
  import RunPanel from './RunPanel.svelte';
  import { pathsOf, type PathOffer } from './paths';

  const many = new Many();
  const shelf = new Shelf();
  $effect(() => {
    void many.open();
    return () => many.close();
  });
  $effect(() => shelf.follow());

  let files = $state.raw<readonly File[]>([]);
  let lookId = $state('');
  let strength = $state(100);
  const badStrength = $derived(!(strength >= 1 && strength <= 100));
  let chosen = $state(usualOutput());
  let badQuality = $state(false);
  let pattern = $state('{name}-{look}');
  let target = $state<'zip' | 'folder'>('zip');
  let folder = $state.raw<Folder | null>(null);
  let overwrite = $state(false);
  let over = $state(false);
  /** What could not be done, in words for a person. */
  let problem = $state('');

  const ENDINGS = IMAGE_FILES.split(',');
  const picksFolders = 'showDirectoryPicker' in window;
  const looks = $derived(shelf.looks);
  let paths = $state.raw<readonly PathOffer[]>([]);
  /** What the address asks for is waited for. */
  let asked = $state(new URLSearchParams(location.search).get('path'));
  async function readPaths(): Promise<void> {
    await whenLeft();
    paths = pathsOf(await (await openLibrary()).list());
    if (paths.some(({ id }) => id === asked)) lookId = asked!;
    else if (asked !== null) problem = 'The picture whose path was to be used is not there any more.';
    asked = null;
  }
  $effect(() => {
    const read = (): void =>
      void readPaths().catch((error: Error) => {
        problem = `The documents can’t be read: ${error.message}`;
      });
    read();
    return tabs.onChange(read);
  });
  $effect(() => {
    if (asked === null && ![...looks, ...paths].some(({ id }) => id === lookId)) lookId = looks[0]?.id ?? '';
  });
  const path = $derived(paths.find(({ id }) => id === lookId));
  const look = $derived(path ?? looks.find(({ id }) => id === lookId) ?? looks[0]);
  const bytes = $derived(files.reduce((sum, { size }) => sum + size, 0));

  /** What the first file is called that is made, or why none can be. */
  const named = $derived.by(() => {
    const names = files.length > 0 ? files.map(({ name }) => name) : ['picture'];
    try {
      const [first] = outputsOf(names, look.look, { pattern, settings: settingsOf(chosen) });
      return { first, wrong: '' };
    } catch (error) {
      return { first: '', wrong: (error as Error).message };
    }
  });
  const noFolder = $derived(target === 'folder' && !folder);

  function add(more: readonly File[]): void {
    if (more.length === 0) return;
    if (many.run) {
      problem = 'These files wait until the work at hand is put away: “New work” does that.';
      return;
    }
    const isPicture = ({ name }: File): boolean => ENDINGS.some((one) => name.toLowerCase().endsWith(one));
    const others = more.filter((file) => !isPicture(file));
    problem =
      others.length === 0
        ? ''
        : `${someOf(others.map(({ name }) => quoted(name)))} ${others.length === 1 ? 'is no picture and was' : 'are no pictures and were'} left out: it takes ${IMAGE_FORMATS}.`;
    files = [...files, ...more.filter(isPicture)];
  }

  async function pickFolder(): Promise<void> {
    const pick = (window as unknown as { showDirectoryPicker(of: object): Promise<Folder> })
      .showDirectoryPicker;
    try {
      folder = await pick({ mode: 'readwrite', id: 'kromba-many' });
    } catch (error) {
      if (!wasCancelled(error)) problem = (error as Error).message;
    }
  }

  async function doing(work: () => Promise<void>): Promise<void> {
    problem = '';
    try {
      await work();
    } catch (error) {
      problem = (error as Error).message;
    }
  }

  const begin = (): Promise<void> =>
    doing(async () => {
      const given = files;
      await many.begin(given, {
        look: { look: atStrength(look.look, strength / 100), files: look.files },
        settings: settingsOf(chosen),
        pattern,
        folder: target === 'folder' ? folder : null,
        overwrite
      });
    });
  const open = (item: Item): Promise<void> =>
    doing(async () => {
      const opening = new Opening(await openLibrary(), () => Promise.resolve());
      await opening.add([await many.made(item)]);
      problem = opening.problems.map(({ text }) => text).join(' ');
    });

  /** What failed stands first, once nothing moves any more. */
  const shown = $derived(
    many.working
      ? many.items
      : [...many.items].sort(
          (a, b) => Number(b.state === 'failed') - Number(a.state === 'failed') || a.n - b.n
        )
  );
  const count = (n: number, what: string): string => `${n} ${what}${n === 1 ? '' : 's'}`;
</script>

<svelte:window
  ondragover={(event) => {
    event.preventDefault();
    over = true;
  }}
  ondragleave={(event) => {
    if (event.relatedTarget === null) over = false;
  }}
  ondrop={(event) => {
    event.preventDefault();
    over = false;
    void droppedFiles(event).then(add);
  }}
/>

<main>
  <header>
    <a href="/"><h1>Kromba</h1></a>
    <span class="quiet">Many files</span>
    <span class="space"></span>
    {#if many.ready && !many.run && !many.elsewhere}
      <OpenButton
        label="Pictures to work on"
        icon={FolderOpen}
        accept={IMAGE_FILES}
        disabled={false}
        onopen={add}>Choose pictures</OpenButton
      >
    {/if}
  </header>
  <aside>
    {#if many.run}
      <RunPanel {many} run={many.run} {doing} onagain={() => (files = [])} />
    {:else if many.ready}
      <Select
        labelText="Look, or the path of a picture"
        bind:selected={lookId}
        helperText={look?.look.note ?? ''}
      >
        <SelectItemGroup label="Looks">
          {#each looks as { id, look: one } (id)}<SelectItem value={id} text={one.name} />{/each}
        </SelectItemGroup>
        {#if paths.length > 0}
          <SelectItemGroup label="Paths of pictures">
            {#each paths as { id, title } (id)}<SelectItem value={id} text={title} />{/each}
          </SelectItemGroup>
        {/if}
      </Select>
      {#if path}
        {#each path.told as text (text)}<p class="quiet told">{text}</p>{/each}
        {#if path.wrong}<p class="wrong" role="alert">{path.wrong}</p>{/if}
      {/if}
      <NumberInput
        labelText="Strength, percent"
        min={1}
        max={100}
        bind:value={strength}
        invalidText="1 to 100"
      />
      <OutputSettings bind:chosen bind:bad={badQuality} largest={Infinity} />
      <TextInput
        labelText="Names"
        bind:value={pattern}
        invalid={named.wrong !== ''}
        invalidText={named.wrong}
        helperText={`${named.first} · {name} {look} {n} {date}`}
      />
      {#if picksFolders}
        <RadioButtonGroup legendText="Into" bind:selected={target}>
          <RadioButton value="zip" labelText="one zip" />
          <RadioButton value="folder" labelText="a folder" />
        </RadioButtonGroup>
        {#if target === 'folder'}
          <div class="buttons">
            <Button size="small" kind="tertiary" on:click={() => void pickFolder()}
              >{folder ? `“${folder.name}”` : 'Choose the folder'}</Button
            >
          </div>
          <Checkbox labelText="Write over files that are there" bind:checked={overwrite} />
        {/if}
      {/if}
      <Button
        disabled={files.length === 0 ||
          named.wrong !== '' ||
          badQuality ||
          badStrength ||
          Boolean(path?.wrong) ||
          noFolder ||
          many.elsewhere}
        on:click={() => void begin()}
        >{files.length === 0 ? 'Make them' : `Make ${count(files.length, 'file')}`}</Button
      >
    {/if}
  </aside>
  <section>
    <div class="messages" aria-live="polite">
      {#if many.elsewhere}
        <InlineNotification
          lowContrast
          kind="info"
          hideCloseButton
          title="Another tab is at it."
          subtitle="Many files are worked on in one tab at a time. This one goes on when that one is closed."
        />
      {/if}
      {#each [problem, many.problem].filter(Boolean) as text (text)}
        <InlineNotification lowContrast kind="error" title="That could not be done." subtitle={text} />
      {/each}
    </div>
    {#if many.run}
      <ul class="cards" aria-label="Files">
        {#each shown as item (item.n)}<ManyCard {item} onopen={() => void open(item)} />{/each}
      </ul>
    {:else if files.length > 0}
      <div class="line">
        <span>{count(files.length, 'file')}, {bytesTold(bytes)}</span>
        <button class="tool raised" onclick={() => (files = [])}>Take all off the list</button>
      </div>
      <ul class="list" aria-label="Files">
        {#each files as file, i (i)}
          <li>
            <span class="name" title={file.name}>{file.name}</span>
            <span class="quiet">{bytesTold(file.size)}</span>
            <button
              class="tool"
              aria-label={`Take ${file.name} off the list`}
              onclick={() => (files = files.filter((_, k) => k !== i))}>✕</button
            >
          </li>
        {/each}
      </ul>
    {:else if many.ready}
      <div class="empty">
        <h2>No files yet</h2>
        <p>
          Drop {IMAGE_FORMATS} files or whole folders anywhere here, or choose them with the button above. Each
          is made into a file of its own by the look on the left; the files themselves stay as they are.
        </p>
      </div>
    {/if}
  </section>
  {#if over}<DropVeil several={false} right={false} />{/if}
</main>

<style>
  main {
    display: grid;
    grid-template: 48px 1fr / 348px 1fr;
    min-height: 100vh;
  }
  header {
    display: flex;
    grid-column: 1 / -1;
    align-items: center;
    gap: 14px;
    padding-left: 24px;
    border-bottom: 1px solid var(--k-line);
  }
  header a {
    text-decoration: none;
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
  h2 {
    margin: 0;
    font-size: 16px;
    font-weight: 600;
  }
  .space {
    flex: 1;
  }
  aside {
    container-type: inline-size;
    position: sticky;
    top: 0;
    display: flex;
    flex-direction: column;
    gap: 16px;
    align-self: start;
    padding: 20px 24px;
  }
  aside :global(.bx--btn) {
    max-width: none;
  }
  aside :global(.buttons) {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 8px;
  }
  aside :global(.buttons .bx--btn) {
    width: 100%;
    padding-right: 12px;
  }
  section {
    min-width: 0;
    padding: 20px 24px 32px;
    border-left: 1px solid var(--k-line);
    background: var(--k-surface);
  }
  .told,
  .wrong {
    margin: -8px 0 0;
    font-size: 12px;
  }
  .wrong {
    color: var(--k-warn);
  }
  .messages :global(.bx--inline-notification) {
    max-width: 900px;
    margin: 0 0 12px;
  }
  .cards {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(270px, 1fr));
    gap: 14px;
    margin: 0;
    padding: 0;
    list-style: none;
  }
  .line,
  .list li {
    display: flex;
    gap: 16px;
    align-items: center;
  }
  .line {
    justify-content: space-between;
    margin-bottom: 8px;
  }
  .list {
    margin: 0;
    padding: 0;
    list-style: none;
  }
  .list li {
    min-height: 32px;
    border-bottom: 1px solid var(--k-line);
    font-size: 14px;
  }
  .name {
    flex: 1;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .empty {
    display: grid;
    place-content: center;
    min-height: 60vh;
    text-align: center;
  }
  .empty p {
    max-width: 480px;
    margin-top: 8px;
    color: var(--k-text-quiet);
  }
  @media print {
    header,
    aside,
    .messages {
      display: none;
    }
    main {
      display: block;
    }
    section {
      padding: 0;
      border: 0;
      background: #fff;
    }
    .cards {
      grid-template-columns: repeat(3, 1fr);
    }
  }
</style>
