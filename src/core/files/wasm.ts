import { FileError } from './image';

/** The WebAssembly codecs that the core uses; where their bytes come from is the host's affair. */
export type WasmName = `${'jpeg' | 'webp' | 'avif' | 'jxl'}-${'decode' | 'encode'}` | 'lcms' | 'deflate';
type WasmProvider = (name: WasmName) => Promise<WebAssembly.Module>;

let provider: WasmProvider | null = null;

/** Called once by each host (browser worker, Node thread) before files are opened. */
export function provideWasm(from: WasmProvider): void {
  provider = from;
}

/** What a codec does with files, in the third person. */
export const WHAT: Record<WasmName, string> = {
  'jpeg-decode': 'reads JPEG files',
  'jpeg-encode': 'writes JPEG files',
  'webp-decode': 'reads WebP files',
  'webp-encode': 'writes WebP files',
  'avif-decode': 'reads AVIF files',
  'avif-encode': 'writes AVIF files',
  'jxl-decode': 'reads JPEG XL files',
  'jxl-encode': 'writes JPEG XL files',
  lcms: 'converts colour profiles',
  deflate: 'writes PNG files'
};

const notLoaded = (does: string, cause: unknown): FileError =>
  new FileError(
    `The part of Kromba that ${does} could not be loaded: its server does not answer, or it was renewed. The file is as it was. Try again, or reload the page.`,
    { cause }
  );

/** @throws FileError where the codec itself can't be had, which says nothing of the file */
export async function wasmModule(name: WasmName): Promise<WebAssembly.Module> {
  if (!provider) throw new Error('No provider of WebAssembly codecs was set.');
  try {
    return await provider(name);
  } catch (error) {
    throw notLoaded(WHAT[name], error);
  }
}

/**
 * A part of the program that few files need, loaded for the first of them. What it gives throws FileError where it can't be had.
 * @param does what the part does with files, in the third person
 */
export const partOf = <T>(does: string, load: () => Promise<T>): (() => Promise<T>) =>
  once(() =>
    load().catch((error: unknown) => {
      throw notLoaded(does, error);
    })
  );

/** Does something once for all who ask; where it fails, the next one tries again. */
export function once<T>(work: () => Promise<T>): () => Promise<T> {
  let done: Promise<T> | null = null;
  return () => {
    done ??= work().catch((error: unknown) => {
      done = null;
      throw error;
    });
    return done;
  };
}
