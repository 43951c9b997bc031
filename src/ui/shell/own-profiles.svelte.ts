import type { OwnProfile } from '$core/files/own-profile';
import { ProfileStore } from '$storage/profile-store';
import { pool } from '../services';

/** Before what is measured: a person waits for it. */
const PRIORITY = 3;

/** The ICC profiles of their own that a person has added, kept from one visit to the next. */
class OwnProfiles {
  list = $state.raw<readonly OwnProfile[]>([]);
  private store: Promise<ProfileStore> | null = null;
  private loaded: Promise<void> | null = null;

  /** Those of before; done once. @throws StorageError where they can't be had */
  load(): Promise<void> {
    return (this.loaded ??= this.opened()
      .then((store) => store.all())
      .then((known) => {
        const here = new Set(this.list.map(({ key }) => key));
        this.list = [...this.list, ...known.filter(({ key }) => !here.has(key))];
      })
      .catch((error: unknown) => {
        this.loaded = null;
        throw error;
      }));
  }

  /** @returns it, and what is to be told of it, in words @throws FileError where files can't be written by it */
  async add(file: File): Promise<{ readonly profile: OwnProfile; readonly told: string }> {
    const { profile } = await pool.run(
      'profile',
      { file, name: file.name },
      { priority: PRIORITY, signal: undefined }
    );
    this.list = [...this.list.filter(({ key }) => key !== profile.key), profile].sort((a, b) =>
      a.title.localeCompare(b.title)
    );
    try {
      await (await this.opened()).keep(profile);
      return { profile, told: '' };
    } catch (error) {
      return { profile, told: (error as Error).message };
    }
  }

  /** @throws StorageError where it comes back with the next visit */
  async remove(key: string): Promise<void> {
    this.list = this.list.filter((one) => one.key !== key);
    await (await this.opened()).remove(key);
  }

  private opened(): Promise<ProfileStore> {
    return (this.store ??= ProfileStore.open().catch((error: unknown) => {
      this.store = null;
      throw error;
    }));
  }
}

export const ownProfiles = new OwnProfiles();
