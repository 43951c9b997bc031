import type { Bundle } from '$core/files/bundle';
import { pool } from './services';
import { saveFile } from './shell/save-file';

/** Hands a document with its files to the browser's downloads. @throws FileError */
export async function exportDocument(bundle: Bundle): Promise<void> {
  const safe = bundle.document.name.replace(/[\\/:*?"<>|]/g, '_');
  saveFile(`${safe}.kromba`, await pool.runApart('pack', bundle));
}
