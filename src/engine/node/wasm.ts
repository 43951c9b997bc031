import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { provideWasm, type WasmName } from '../../core/files';

const FILES: Record<WasmName, string> = {
  'jpeg-decode': '@jsquash/jpeg/codec/dec/mozjpeg_dec.wasm',
  'jpeg-encode': '@jsquash/jpeg/codec/enc/mozjpeg_enc.wasm',
  'webp-decode': '@jsquash/webp/codec/dec/webp_dec.wasm',
  'webp-encode': '@jsquash/webp/codec/enc/webp_enc_simd.wasm',
  'avif-decode': '@jsquash/avif/codec/dec/avif_dec.wasm',
  'avif-encode': '@jsquash/avif/codec/enc/avif_enc.wasm',
  'jxl-decode': '@jsquash/jxl/codec/dec/jxl_dec.wasm',
  'jxl-encode': '@jsquash/jxl/codec/enc/jxl_enc.wasm',
  lcms: 'lcms-wasm/dist/lcms.wasm',
  deflate: 'zlib-streams/zlib-streams.wasm'
};

/** Gives the core its WebAssembly codecs from the installed packages. */
export function provideNodeWasm(): void {
  const { resolve } = createRequire(import.meta.url);
  provideWasm(async (name) => WebAssembly.compile(new Uint8Array(await readFile(resolve(FILES[name])))));
}
