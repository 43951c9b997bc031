import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { provideWasm, type WasmName } from '../../core/files';

const FILES: Record<WasmName, string> = {
  'jpeg-decode': '@jsquash/jpeg/codec/dec/mozjpeg_dec.wasm',
  'jpeg-encode': '@jsquash/jpeg/codec/enc/mozjpeg_enc.wasm',
  lcms: 'lcms-wasm/dist/lcms.wasm',
  deflate: 'zlib-streams/zlib-streams.wasm'
};

/** Gives the core its WebAssembly codecs from the installed packages. */
export function provideNodeWasm(): void {
  const { resolve } = createRequire(import.meta.url);
  provideWasm(async (name) => WebAssembly.compile(new Uint8Array(await readFile(resolve(FILES[name])))));
}
