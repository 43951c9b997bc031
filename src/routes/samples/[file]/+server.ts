import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { error } from '@sveltejs/kit';
import { isMade, samples, smallFile } from '../../../../demo/list';
import type { RequestHandler } from './$types';

const FOLDER = process.env['KROMBA_SAMPLES'] ?? join(process.cwd(), 'demo', 'samples');
const FRAMES = join(process.cwd(), 'demo', 'frames');
const TYPES: Record<string, string> = {
  png: 'image/png',
  jpg: 'image/jpeg',
  fits: 'image/fits',
  kromba: 'application/zip'
};

/** One sample image; only files of the list are served. */
export const GET: RequestHandler = async ({ params }) => {
  const listed = samples.find((sample) => [...sample.files, smallFile(sample)].includes(params.file));
  if (!listed) error(404, 'There is no such sample.');
  // The small picture of a finished document comes with the sources.
  const made = isMade(listed) && !(listed.format === 'kromba' && params.file.endsWith('.jpg'));
  const path = join(made ? FRAMES : FOLDER, params.file);
  const found = await stat(path).catch(() => null);
  if (!found) error(404, 'This sample has not been made yet.');
  const body = Readable.toWeb(createReadStream(path)) as ReadableStream;
  const type = TYPES[params.file.split('.').at(-1)!];
  return new Response(body, { headers: { 'Content-Type': type, 'Content-Length': String(found.size) } });
};
