import { fromEvent } from 'file-selector';

/** The files that were dropped, those in dropped folders too, in the order of their names within each. */
export async function droppedFiles(event: DragEvent): Promise<readonly File[]> {
  const found = await fromEvent(event);
  return found.filter((one): one is File & { path?: string } => one instanceof File);
}
