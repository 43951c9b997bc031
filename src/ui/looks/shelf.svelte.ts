import pLimit from 'p-limit';
import {
  contentKey,
  findStep,
  freeName,
  freeNames,
  parseLook,
  putOn,
  stepsTo,
  type Look,
  type Naming,
  type SourcePicture,
  type Step
} from '$core/document';
import type { Recipe } from '$core/document/history';
import { packLooks, unpackLooks, type LookBundle } from '$core/files/looks';
import { freeFileNames, ownFileName } from '$core/files/file-names';
import { ownLooks } from '$core/looks/own';
import type { Table } from '$core/lut/table';
import { lut } from '$core/ops/lut';
import type { Library, StoredLook } from '$storage/library';
import { newId } from '../bench/names';
import type { Session } from '../bench/session.svelte';
import { ranked } from '../path/search';
import { openLibrary, openTable, tabs, takeTable } from '../services';
import { leftOut } from '../some-of';

/** A look on the shelf. */
export interface ShelfLook extends Pick<StoredLook, 'id' | 'look' | 'files'> {
  /** It came with Kromba: it can be copied, not changed. */
  readonly own: boolean;
}

/** A table of a look that is open. */
interface Opened {
  readonly hash: string;
  readonly table: Table;
  readonly file: Blob;
}
export type OpenedTables = ReadonlyMap<string, Opened>;

const FAVOURITES = 'kromba-favourites';
const own: readonly ShelfLook[] = ownLooks.map(({ id, look }) => ({ id, look, files: {}, own: true }));

function rememberedFavourites(): ReadonlySet<string> {
  try {
    const kept = JSON.parse(localStorage.getItem(FAVOURITES) ?? '[]') as unknown;
    return new Set(Array.isArray(kept) ? kept.map(String) : []);
  } catch {
    return new Set();
  }
}

/** What a look does, whatever it is called: two that do the same are one. */
const contentOf = (look: Look, files: StoredLook['files']): string =>
  contentKey(JSON.stringify([look.steps, look.masks, (look.tables ?? []).map(({ id }) => [id, files[id]])]));

/** What tabs tell each other when the looks are others. */
const LOOKS = 'looks';

async function write(work: (library: Library) => Promise<void>): Promise<void> {
  await work(await openLibrary());
  tabs.tell(LOOKS);
}

/** Files that are read at a time. */
const AT_ONCE = 2;

/** The looks that were kept in this browser and those that come with Kromba, and the one that is worn. */
export class Shelf {
  open = $state(false);
  wanted = $state('');
  /** How strongly a look is put on, in %. */
  strength = $state(100);
  /** Why something could not be done, in words for a person. */
  problem = $state('');
  /** It is being asked what is to be kept. */
  keeping = $state(false);
  private kept = $state.raw<readonly StoredLook[]>([]);
  private favourites = $state.raw<ReadonlySet<string>>(rememberedFavourites());
  /** What was put on last, which the next one takes the place of. */
  private worn = $state.raw<{
    readonly look: string;
    readonly picture: string;
    readonly group: string;
  } | null>(null);
  private removed: readonly StoredLook[] = [];
  private loading: Promise<void> | null = null;

  readonly looks = $derived.by<readonly ShelfLook[]>(() => [
    ...this.kept.map((look) => ({ ...look, own: false })),
    ...own
  ]);
  /** Those that are looked for, favourites first. */
  readonly found = $derived.by<readonly ShelfLook[]>(() => {
    const offers = this.looks.map((one) => ({
      one,
      title: one.look.name,
      purpose: one.look.note ?? '',
      words: []
    }));
    const found = ranked(offers, this.wanted).map(({ one }) => one);
    return [
      ...found.filter((one) => this.isFavourite(one)),
      ...found.filter((one) => !this.isFavourite(one))
    ];
  });

  /** Looks of one step of an op: its settings under a name. */
  settingsOf(op: string): readonly ShelfLook[] {
    return this.looks.filter(
      ({ look: { steps, masks, tables } }) => steps.length === 1 && steps[0].op === op && !masks && !tables
    );
  }

  /** Gives the selected step the settings that were kept under a name. */
  useSettings(session: Session, { look: { name, steps } }: ShelfLook): void {
    const { params, on } = JSON.parse(JSON.stringify(steps[0])) as Step;
    session.changeStep(`Settings “${name}”`, (step) => {
      step.params = params;
      if (on) step.on = on;
      else delete step.on;
    });
  }

  isFavourite = ({ id }: Pick<ShelfLook, 'id'>): boolean => this.favourites.has(id);

  toggleFavourite({ id }: ShelfLook): void {
    const next = new Set(this.favourites);
    if (!next.delete(id)) next.add(id);
    this.favourites = next;
    localStorage.setItem(FAVOURITES, JSON.stringify([...next]));
  }

  /** Reads what was kept, once. */
  load(): Promise<void> {
    this.loading ??= this.read().catch((error: Error) => {
      this.loading = null;
      this.problem = `The looks that were kept can’t be read: ${error.message}`;
    });
    return this.loading;
  }

  private async read(): Promise<void> {
    this.kept = await (await openLibrary()).looks();
  }

  /** Stays as other tabs have the looks. @returns ends it */
  follow(): () => void {
    void this.load().then(() => this.read().catch(() => undefined));
    return tabs.onChange((id) => {
      if (id === LOOKS) void this.read().catch(() => undefined);
    });
  }

  private async doing(work: () => Promise<void>): Promise<void> {
    this.problem = '';
    try {
      await work();
    } catch (error) {
      this.problem = (error as Error).message;
    }
  }

  /** Keeps looks; those that do what one does that is there already are left. @returns how many are new */
  private async keep(looks: readonly Pick<StoredLook, 'look' | 'files'>[]): Promise<number> {
    await this.load();
    const known = new Set(this.kept.map(({ look, files }) => contentOf(look, files)));
    const now = Date.now();
    const fresh = looks.filter(({ look, files }) => {
      const content = contentOf(look, files);
      if (known.has(content)) return false;
      known.add(content);
      return true;
    });
    const stored = fresh.map((one, i): StoredLook => ({
      ...one,
      id: crypto.randomUUID(),
      createdAt: now + i
    }));
    await write((library) => library.keepLooks(stored));
    this.kept = [...this.kept, ...stored];
    return stored.length;
  }

  /** Keeps a look of a document. */
  save(session: Session, look: Look): Promise<void> {
    return this.doing(async () => {
      const files = Object.fromEntries((look.tables ?? []).map(({ id }) => [id, session.files.hashes[id]]));
      const fresh = await this.keep([{ look, files }]);
      session.notice =
        fresh > 0 ? `“${look.name}” is on the shelf.` : 'A look that does the same is on the shelf already.';
    });
  }

  rename({ id, own: isOwn, ...one }: ShelfLook, name: string): Promise<void> {
    const trimmed = name.trim().slice(0, 200);
    return this.doing(async () => {
      const stored = this.kept.find((k) => k.id === id);
      if (!trimmed || isOwn || !stored) return;
      const next = { ...stored, look: { ...one.look, name: trimmed } };
      await write((library) => library.keepLooks([next]));
      this.kept = this.kept.map((k) => (k.id === id ? next : k));
    });
  }

  /** A copy under a name of its own. */
  duplicate({ look, files }: ShelfLook): Promise<void> {
    return this.doing(async () => {
      const name = freeName(
        this.looks.map((one) => one.look),
        look.name
      );
      const copy: StoredLook = {
        id: crypto.randomUUID(),
        look: { ...look, name },
        files,
        createdAt: Date.now()
      };
      await write((library) => library.keepLooks([copy]));
      this.kept = [...this.kept, copy];
    });
  }

  remove({ id }: ShelfLook): Promise<void> {
    return this.doing(async () => {
      const removed = this.kept.filter((k) => k.id === id);
      await write((library) => library.removeLooks([id]));
      this.removed = removed;
      this.kept = this.kept.filter((k) => k.id !== id);
    });
  }

  /** Puts back what was removed last. */
  putBack(): Promise<void> {
    return this.doing(async () => {
      const { removed } = this;
      await write((library) => library.keepLooks(removed));
      this.kept = [...this.kept, ...removed];
      this.removed = [];
    });
  }

  /** A look as it is handed on. */
  private async bundle(one: ShelfLook): Promise<LookBundle> {
    const tables = await this.tablesOf(one);
    return { look: one.look, files: new Map([...tables].map(([id, { file }]) => [id, file])) };
  }

  /** @throws FileError */
  async pack(looks: readonly ShelfLook[]): Promise<{ name: string; content: Blob }> {
    const bundles: LookBundle[] = [];
    for (const one of looks) bundles.push(await this.bundle(one));
    return packLooks(bundles);
  }

  /** Takes looks and tables from files. What can't be read is told, the rest is taken. @returns what was taken, in words */
  async take(files: readonly File[]): Promise<string> {
    const reading = pLimit(AT_ONCE);
    const wrong: { name: string; why: string }[] = [];
    const read = async (file: File): Promise<Pick<StoredLook, 'look' | 'files'>[]> => {
      try {
        return await this.looksIn(file);
      } catch (error) {
        wrong.push({ name: file.name, why: (error as Error).message });
        return [];
      }
    };
    const found = await tabs.adding(async () => {
      const all = (await Promise.all(files.map((file) => reading(() => read(file))))).flat();
      const fresh = await this.keep(all);
      return { fresh, known: all.length - fresh };
    });
    this.problem = leftOut(wrong, ['was not taken.', 'were not taken.']).join(' ');
    const told = found.fresh === 1 ? '1 look was taken' : `${found.fresh} looks were taken`;
    return found.known > 0
      ? `${told}; ${found.known} ${found.known === 1 ? 'was' : 'were'} there already.`
      : `${told}.`;
  }

  private async looksIn(file: File): Promise<Pick<StoredLook, 'look' | 'files'>[]> {
    const library = await openLibrary();
    if (/\.cube$/i.test(file.name)) {
      const hash = await takeTable(library, file);
      const { title } = await openTable(hash, () => Promise.resolve(file));
      const name = title.trim() || file.name.replace(/\.cube$/i, '');
      const look = parseLook({
        ...{ kromba: 1, kind: 'look', name: name.slice(0, 200) },
        steps: [{ id: 's1', op: lut.id, params: { table: 't1' } }],
        tables: [{ id: 't1', name: name.slice(0, 200), file: ownFileName(file.name) }]
      });
      return [{ look, files: { t1: hash } }];
    }
    const found: Pick<StoredLook, 'look' | 'files'>[] = [];
    for (const { look, files } of await unpackLooks(file)) {
      const hashes: Record<string, string> = {};
      for (const [id, table] of files) hashes[id] = await takeTable(library, table);
      found.push({ look, files: hashes });
    }
    return found;
  }

  /** The tables of a look, by its own ids for them. @throws FileError, or Error in words for a person */
  async tablesOf({ look, files }: Pick<ShelfLook, 'look' | 'files'>): Promise<OpenedTables> {
    const opened = new Map<string, Opened>();
    for (const { id, name } of look.tables ?? []) {
      const hash = files[id];
      const file = await (await openLibrary()).file(hash);
      if (!file) throw new Error(`The table “${name}” is missing from this browser’s storage.`);
      opened.set(id, { hash, table: await openTable(hash, () => Promise.resolve(file)), file });
    }
    return opened;
  }

  /** The group of what was put on last, where it still stands in the picture. */
  wornOn(session: Session): string | null {
    const { picture } = session.cursor;
    const { worn } = this;
    return worn && worn.picture === picture.id && findStep(picture.steps, worn.group) ? worn.group : null;
  }

  /** What was put on last. */
  get wornLook(): string | null {
    return this.worn?.look ?? null;
  }

  isWorn(session: Session, { id }: ShelfLook): boolean {
    return this.wornOn(session) !== null && this.worn?.look === id;
  }

  /** The change that puts a look on pictures, in the place of what is worn. @param told the group that it becomes on each */
  private recipe(
    session: Session,
    { look }: ShelfLook,
    tables: OpenedTables,
    pictures: readonly string[],
    told: (picture: string, group: string | null) => void = () => undefined
  ): Recipe {
    const { worn } = this;
    const idOf = tableIds(session, tables);
    const naming: Naming = { newId, tableId: (id) => idOf.get(id) ?? id };
    return (draft) => {
      const fileName = freeFileNames(draft.frames, draft.tables);
      const free = freeNames(draft.tables);
      for (const { id, name, file } of look.tables ?? []) {
        const own = naming.tableId(id);
        if (draft.tables.some((t) => t.id === own)) continue;
        draft.tables.push({ id: own, name: free(name), file: fileName(file) });
      }
      for (const id of pictures) {
        const picture = draft.pictures.find((p) => p.id === id);
        const at = worn?.picture === id ? (picture?.steps.findIndex((s) => s.id === worn.group) ?? -1) : -1;
        if (at >= 0) picture!.steps.splice(at, 1);
        told(id, putOn(draft as Session['document'], id, look, this.strength / 100, naming));
      }
    };
  }

  /** Puts a look on pictures, on the one that is worked on among others, as one entry of the history. */
  putOn(session: Session, one: ShelfLook, pictures = [session.cursor.picture.id]): Promise<void> {
    return this.doing(async () => {
      const tables = await this.tablesOf(one);
      const ids = tableIds(session, tables);
      session.files.hold([...tables].map(([id, opened]) => ({ id: ids.get(id)!, ...opened })));
      const groups = new Map<string, string | null>();
      const recipe = this.recipe(session, one, tables, pictures, (picture, group) =>
        groups.set(picture, group)
      );
      if (!session.change(`Put on “${one.look.name}”`, recipe)) return;
      const { id } = session.cursor.picture;
      const group = groups.get(id);
      this.worn = group ? { look: one.id, picture: id, group } : null;
      if (group) session.select(group);
      if (pictures.length > 1) session.notice = `“${one.look.name}” is on ${pictures.length} pictures.`;
    });
  }

  /** Takes off what was put on last. */
  takeOff(session: Session): void {
    const group = this.wornOn(session);
    const { id } = session.cursor.picture;
    if (!group) return;
    session.change('Take a look off', (draft) => {
      const steps = draft.pictures.find((p) => p.id === id)?.steps;
      steps?.splice(
        steps.findIndex((s) => s.id === group),
        1
      );
    });
    this.worn = null;
    session.select(session.cursor.picture.steps.at(-1)?.id ?? null);
  }

  /** The picture as it would be with a look; null where it can't be put on. */
  suppose(session: Session, one: ShelfLook, tables: OpenedTables): SourcePicture | null {
    const { id, name } = session.cursor.picture;
    const document = session.whatIf(() => void session.change('', this.recipe(session, one, tables, [id])));
    const picture = document?.pictures.find((p) => p.id === id);
    if (!document || !picture) return null;
    const ids = tableIds(session, tables);
    const held = [...tables].map(([own, { hash, table }]) => ({ id: ids.get(own)!, hash, table }));
    const { head, steps, pins } = session.files.resolverOf(document, held).whole(picture);
    return { name, head, steps: stepsTo(steps, 'end') ?? [], pins };
  }
}

/** The ids that a look's tables have in a document: of those of the same content, where it has them. */
function tableIds(session: Session, tables: OpenedTables): Map<string, string> {
  const ids = [...tables].map(([own, { hash }]): [string, string] => {
    const known = session.document.tables.find(({ id }) => session.files.hashes[id] === hash);
    return [own, known?.id ?? `t-${hash.slice(0, 8)}`];
  });
  return new Map(ids);
}
