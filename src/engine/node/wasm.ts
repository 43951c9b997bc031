import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { provideWasm, type WasmName } from '../../core/files';

const FILES: Record<WasmName, string> = {
  'jpeg-decode': '@jsquash/jpeg/codec/dec/mozjpeg_dec.wasm',
  'jpeg-encode': '@jsquash/jpeg/codec/enc/mozjpeg_enc.wasm',
  'webp-decode': '@jsquash/webp/codec/dec/webp_dec.wasm',
  'webp-encode': '@jsquash/webp/codec/enc/webp_enc_simd.wasm',
  'avif-decode': '@jsquash/avif/codec/dec/avif_dec.wasm',
  'avif-encode': '@jsquash/avif/codec/enc/avif_enc.wasm',
  'jxl-decode': 'jxl-oxide-wasm/package.json',
  'jxl-encode': '@jsquash/jxl/codec/enc/jxl_enc.wasm',
  lcms: 'lcms-wasm/dist/lcms.wasm',
  deflate: 'zlib-streams/zlib-streams.wasm'
};

/** Where its package tells only other modules where it lies. */
const BESIDE: Partial<Record<WasmName, string>> = { 'jxl-decode': 'jxl_oxide_wasm_bg.wasm' };

/** Gives the core its WebAssembly codecs from the installed packages. */
export function provideNodeWasm(): void {
  const { resolve } = createRequire(import.meta.url);
  provideWasm(async (name) => {
    const [path, beside] = [resolve(FILES[name]), BESIDE[name]];
    const file = beside ? join(dirname(path), beside) : path;
    return WebAssembly.compile(new Uint8Array(await readFile(file)));
  });
}
