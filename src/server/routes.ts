import { readFile } from 'node:fs/promises';
import type { z } from 'zod';
import { fileFormats } from '../core/files';
import { outputNames, stemOf } from '../core/files/name-pattern';
import { renderSettings, strengthOf } from '../engine/settings';
import type { RenderSettings } from '../engine/render-file';
import { FIELDS, type RenderFields } from './fields';
import type { Form, SentFile } from './form';
import type { Limits } from './limits';
import type { ByProfile, Job } from './perform';
import { inSettings, Problem } from './problem';

/** A piece of work, and what the file that comes of it is called. */
export interface Task {
  readonly job: Job;
  readonly name: string;
  readonly mime: string;
}

/** Something that can be asked for with a form. */
export interface Route {
  readonly title: string;
  readonly fields: z.ZodObject;
  /** Fields of files: how many, and what they are. */
  readonly files: Readonly<
    Record<string, { readonly most: (limits: Limits) => number; readonly told: string }>
  >;
  /** Types of what comes back. */
  readonly answers: readonly string[];
  /** What is to be done. @throws Problem */
  tasks(form: Form, limits: Limits): Promise<readonly Task[]>;
}

const once = (): number => 1;
const TABLES = 16;
const tables = {
  most: () => TABLES,
  told: 'Files of tables that the look puts colours through, under the names it knows them by.'
};

/** The fields of text, as their schema has them. @throws Problem for the first that can't be */
function parsed<S extends z.ZodObject>(schema: S, texts: ReadonlyMap<string, string>): z.output<S> {
  const { data, error } = schema.safeParse(Object.fromEntries(texts));
  if (!error) return data as z.output<S>;
  const [{ path, message, code }] = error.issues;
  const field = String(path[0]);
  const missing = code === 'invalid_type' && !texts.has(field);
  throw new Problem('field', missing ? `“${field}” is missing.` : `“${field}” ${message}.`, field);
}

/** A look may be sent as text, or as the file that it is in. */
async function withLook(
  { texts, files }: Form,
  { fieldBytes }: Limits
): Promise<ReadonlyMap<string, string>> {
  const [file] = files.get('look') ?? [];
  if (!file) return texts;
  if (texts.has('look')) throw new Problem('field', '“look” is given twice.', 'look');
  if (file.bytes > fieldBytes)
    throw new Problem('too-large', `A look may be ${Math.floor(fieldBytes / 2 ** 20)} MB at most.`, 'look');
  return new Map([...texts, ['look', await readFile(file.path, 'utf8')]]);
}

const filesOf = ({ files }: Form, field: string): readonly SentFile[] => files.get(field) ?? [];

function settingsOf(fields: RenderFields, { pixels }: Limits): RenderSettings {
  const { format, depth, space, size, quality, compression, metadata } = fields;
  const words = { format, depth, space, size, quality, compression, metadata };
  const [dither, grey, history] = [fields.dither, fields.grey, fields.history].map((v) => v === 'yes');
  const choices = { dither, grey, history, keepRange: fields.range === 'keep' };
  return { ...inSettings(() => renderSettings({ ...words, ...choices })), mostPixels: pixels };
}

/** A profile that was sent, and how colours are brought into it. @throws Problem */
function profileIn(form: Form, { intent, 'black-point': black }: RenderFields): ByProfile {
  const [profile] = filesOf(form, 'profile');
  if (profile) return { profile, into: { intent, blackPoint: black !== 'cut' } };
  const idle = intent !== undefined ? 'intent' : black !== undefined ? 'black-point' : null;
  if (idle) throw new Problem('field', `“${idle}” goes with a “profile”.`, idle);
  return {};
}

/** Of a look, what it is called: its text is read in full by who computes. */
function nameIn(look: string): string {
  try {
    const { name } = JSON.parse(look) as { name?: unknown };
    return typeof name === 'string' ? name : '';
  } catch {
    return '';
  }
}

const render: Route = {
  title: 'Puts a look on pictures, or makes a picture of a document.',
  fields: FIELDS.render,
  files: {
    image: {
      most: ({ images }) => images,
      told: 'Pictures that the look is put on; several come back in a zip.'
    },
    look: { most: once, told: 'The look, as the file that it is in.' },
    profile: { most: once, told: 'An ICC profile of RGB that is written by, in place of a “space”.' },
    document: { most: once, told: 'A .kromba: a document with its pictures in it.' },
    table: tables
  },
  answers: [...fileFormats.map(({ mime }) => mime), 'application/zip'],
  async tasks(form, limits) {
    const texts = await withLook(form, limits);
    const fields = parsed(FIELDS.render, texts);
    const settings = settingsOf(fields, limits);
    const { mime, extensions } = fileFormats.find(({ id }) => id === settings.format)!;
    const by = profileIn(form, fields);
    const [document] = filesOf(form, 'document');
    const images = filesOf(form, 'image');
    if (document) {
      for (const other of ['look', 'image', 'table'])
        if (texts.has(other) || filesOf(form, other).length > 0)
          throw new Problem('field', `“${other}” does not go with “document”.`, other);
      const { picture } = fields;
      if (fields.strength !== undefined)
        throw new Problem('field', '“strength” goes with a “look”.', 'strength');
      if (!picture)
        throw new Problem('field', 'Name one of the document’s pictures as “picture”.', 'picture');
      const [name] = named([stemOf(document.name)], fields, picture, extensions[0]);
      return [{ job: { kind: 'document', document, picture, settings, ...by }, name, mime }];
    }
    const { look } = fields;
    if (look === undefined)
      throw new Problem('field', 'Send a “look”, or a “document” and its “picture”.', 'look');
    if (fields.picture !== undefined)
      throw new Problem('field', '“picture” goes with a “document”.', 'picture');
    if (images.length === 0) throw new Problem('field', 'Send pictures as “image”.', 'image');
    const strength = inSettings(() => strengthOf(fields.strength));
    const names = named(
      images.map(({ name }) => name),
      fields,
      nameIn(look),
      extensions[0]
    );
    return images.map((image, i) => ({
      job: { kind: 'render', look, strength, tables: filesOf(form, 'table'), image, settings, ...by },
      name: names[i],
      mime
    }));
  }
};

/** @throws Problem where two would be called the same */
function named(
  files: readonly string[],
  { name: pattern }: RenderFields,
  look: string,
  extension: string
): string[] {
  try {
    return outputNames(
      files,
      { pattern, look, extension },
      (before, file, output) =>
        `“${before}” and “${file}” would both be called “${output}”: put {n} into “name”, such as {name}-{n}.`
    );
  } catch (error) {
    throw new Problem('field', (error as Error).message, 'name');
  }
}

const bake: Route = {
  title: 'Makes a table of a look that other programs read.',
  fields: FIELDS.bake,
  files: {
    look: { most: once, told: 'The look, as the file that it is in.' },
    image: { most: once, told: 'The picture that steps of the look are solved from, where some are.' },
    table: tables
  },
  answers: ['text/plain'],
  async tasks(form, limits) {
    const { look, size, title, domain, plain } = parsed(FIELDS.bake, await withLook(form, limits));
    const [image] = filesOf(form, 'image');
    const [name] = named([title ?? nameIn(look)], { name: '{name}' } as RenderFields, '', 'cube');
    const options = { size: Number(size), title, domain, plain: plain === 'yes' };
    return [
      {
        job: { kind: 'bake', look, tables: filesOf(form, 'table'), image, ...options },
        name,
        mime: 'text/plain'
      }
    ];
  }
};

const measure: Route = {
  title: 'Tells size, sample type and the statistics of each plane of a picture, as JSON.',
  fields: FIELDS.measure,
  files: { image: { most: once, told: 'The picture.' } },
  answers: ['application/json'],
  async tasks(form) {
    const { at } = parsed(FIELDS.measure, form.texts);
    const [image] = filesOf(form, 'image');
    if (!image) throw new Problem('field', 'Send a picture as “image”.', 'image');
    return Promise.resolve([
      { job: { kind: 'measure', image, at }, name: 'measured.json', mime: 'application/json' }
    ]);
  }
};

export const routes: Readonly<Record<string, Route>> = {
  '/api/render': render,
  '/api/bake': bake,
  '/api/measure': measure
};
