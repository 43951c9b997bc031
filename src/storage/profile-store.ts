import { openDB, type DBSchema, type IDBPDatabase } from 'idb';
import type { OwnProfile } from '$core/files/own-profile';
import { guarded } from './guarded';

interface Schema extends DBSchema {
  profiles: { key: string; value: OwnProfile };
}

const NAME = 'kromba-profiles';

/** Profiles of a person's own that files are written by, by their keys. */
export class ProfileStore {
  private constructor(private readonly db: IDBPDatabase<Schema>) {}

  /** @throws StorageError */
  static open(name = NAME): Promise<ProfileStore> {
    return guarded('Profiles can’t be kept for the next visit.', async () => {
      const db = await openDB<Schema>(name, 1, {
        upgrade(fresh) {
          fresh.createObjectStore('profiles', { keyPath: 'key' });
        },
        blocking: (_current, _blocked, event) => (event.target as IDBDatabase).close()
      });
      return new ProfileStore(db);
    });
  }

  close(): void {
    this.db.close();
  }

  /** By their titles. @throws StorageError */
  all(): Promise<OwnProfile[]> {
    return guarded('The profiles that were added before can’t be had.', async () =>
      (await this.db.getAll('profiles')).sort((a, b) => a.title.localeCompare(b.title))
    );
  }

  /** One that is there already takes the new title. @throws StorageError */
  async keep(profile: OwnProfile): Promise<void> {
    await guarded('The profile is not kept for the next visit.', () => this.db.put('profiles', profile));
  }

  /** @throws StorageError */
  remove(key: string): Promise<void> {
    return guarded('The profile is still kept.', () => this.db.delete('profiles', key));
  }
}
