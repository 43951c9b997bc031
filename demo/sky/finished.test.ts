import { describe, expect, it } from 'vitest';
import { parseDocument, Resolver } from '../../src/core/document';
import { samples } from '../list';
import { finishedDocument } from './finished';

describe('the finished documents', () => {
  it.each(['lantern', 'quern'] as const)(
    '%s is read, and needs the frames of its sample and no other',
    (id) => {
      const document = parseDocument(finishedDocument(id));
      const { files } = samples.find((sample) => sample.id === id)!;
      expect(document.frames.map(({ file }) => file)).toEqual(files);
      const resolver = new Resolver(document, Object.fromEntries(document.frames.map((f) => [f.id, f.file])));
      const needed = document.pictures.map((picture) => resolver.framesOf(picture).length);
      expect(Math.max(...needed)).toBe(files.length);
    }
  );
});
