import { zipSync, unzipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { parseLook, type Look } from '../document';
import { packLooks, unpackLooks } from './looks';

const plain = parseLook({
  ...{ kromba: 1, kind: 'look', name: 'Turned: all/over', note: 'x' },
  steps: [{ id: 's1', op: 'invert', params: {} }]
});
const withTable = (name: string): Look =>
  parseLook({
    ...{ kromba: 1, kind: 'look', name },
    steps: [{ id: 's1', op: 'lut', params: { table: 't1' } }],
    tables: [{ id: 't1', name: 'Kiln', file: 'kiln.cube' }]
  });
const cube = new Blob(['LUT_3D_SIZE 2 …']);
const other = new Blob(['another table']);
const bytesOf = async (blob: Blob): Promise<Uint8Array> => new Uint8Array(await blob.arrayBuffer());
const text = (json: unknown): Uint8Array<ArrayBuffer> => new TextEncoder().encode(JSON.stringify(json));

describe('looks as files', () => {
  it('are JSON where one goes alone, and come back as they were', async () => {
    const { name, content } = await packLooks([{ look: plain, files: new Map() }]);
    expect(name).toBe('Turned_ all_over.look.json');
    expect(await unpackLooks(content)).toEqual([{ look: plain, files: new Map() }]);
  });

  it('are a zip where there are several or tables, each table once', async () => {
    const looks = [
      { look: withTable('Blue'), files: new Map([['t1', cube]]) },
      { look: withTable('Blue'), files: new Map([['t1', cube]]) },
      { look: withTable('Red'), files: new Map([['t1', other]]) },
      { look: plain, files: new Map() }
    ];
    const { name, content } = await packLooks(looks);
    expect(name).toBe('looks.zip');
    // Another's reading of the zip.
    expect(Object.keys(unzipSync(await bytesOf(content))).sort()).toEqual([
      'Blue (2).look.json',
      'Blue.look.json',
      'Red.look.json',
      'Turned_ all_over.look.json',
      'kiln (2).cube',
      'kiln.cube'
    ]);
    const back = await unpackLooks(content);
    expect(back.map(({ look }) => look.name).sort()).toEqual(['Blue', 'Blue', 'Red', 'Turned: all/over']);
    const red = back.find(({ look }) => look.name === 'Red')!;
    expect(await red.files.get('t1')!.text()).toBe('another table');
    expect((await packLooks([looks[0]])).name).toBe('Blue.zip');
  });

  it('that are damaged or lack a table are refused', async () => {
    const zip = (files: Record<string, Uint8Array>): Blob => new Blob([new Uint8Array(zipSync(files))]);
    await expect(unpackLooks(new Blob(['no look']))).rejects.toThrow(/This is not JSON/);
    await expect(unpackLooks(new Blob([text({ kromba: 1, kind: 'document', name: 'x' })]))).rejects.toThrow(
      /this is a document, where a look is expected/
    );
    await expect(unpackLooks(new Blob([text(withTable('Blue'))]))).rejects.toThrow(
      /needs its table “kiln.cube”/
    );
    await expect(unpackLooks(zip({ 'readme.txt': text('x') }))).rejects.toThrow(/holds no look/);
    await expect(unpackLooks(zip({ 'a.look.json': text(withTable('Blue')) }))).rejects.toThrow(
      /table “kiln.cube” of the look “Blue” is missing/
    );
    const whole = await bytesOf(
      (await packLooks([{ look: withTable('Blue'), files: new Map([['t1', cube]]) }])).content
    );
    await expect(unpackLooks(new Blob([whole.slice(0, whole.length - 30)]))).rejects.toThrow(
      /no complete zip/
    );
    await expect(packLooks([{ look: withTable('Blue'), files: new Map() }])).rejects.toThrow(
      /“kiln.cube”.*is missing/
    );
  });
});
