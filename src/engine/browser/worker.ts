import avifDecode from '@jsquash/avif/codec/dec/avif_dec.wasm?url';
import avifEncode from '@jsquash/avif/codec/enc/avif_enc.wasm?url';
import jpegDecode from '@jsquash/jpeg/codec/dec/mozjpeg_dec.wasm?url';
import jpegEncode from '@jsquash/jpeg/codec/enc/mozjpeg_enc.wasm?url';
import jxlEncode from '@jsquash/jxl/codec/enc/jxl_enc.wasm?url';
import webpDecode from '@jsquash/webp/codec/dec/webp_dec.wasm?url';
import webpEncode from '@jsquash/webp/codec/enc/webp_enc_simd.wasm?url';
import jxlDecode from 'jxl-oxide-wasm/module.wasm?url';
import lcms from 'lcms-wasm/dist/lcms.wasm?url';
import deflate from 'zlib-streams/zlib-streams.wasm?url';
import { provideWasm, type WasmName } from '../../core/files';
import type { ToWorker } from '../jobs';
import { Workshop } from '../workshop';

const urls: Record<WasmName, string> = {
  'jpeg-decode': jpegDecode,
  'jpeg-encode': jpegEncode,
  'webp-decode': webpDecode,
  'webp-encode': webpEncode,
  'avif-decode': avifDecode,
  'avif-encode': avifEncode,
  'jxl-decode': jxlDecode,
  'jxl-encode': jxlEncode,
  lcms,
  deflate
};
provideWasm(async (name) => {
  const answer = await fetch(urls[name]);
  if (!answer.ok) throw new Error(`${urls[name]}: ${answer.status}`);
  return WebAssembly.compile(await answer.arrayBuffer());
});

/**
 * The page draws a bitmap as it is; of RGBA it would have to make one first, tile by tile, on its own thread. The pixels
 * are copied before the call returns (HTML standard, createImageBitmap of ImageData), so that lent ones will do.
 */
const workshop = new Workshop((pixels, { width, height }) =>
  createImageBitmap(new ImageData(pixels, width, height))
);
const port = self as unknown as {
  postMessage(message: unknown, transfer: Transferable[]): void;
  onmessage: ((event: MessageEvent<ToWorker & { type: string }>) => void) | null;
  name: string;
};

// The lock is held as long as the worker lives: whoever waits for it learns of its end. The browser notes where it is asked
// for, and to find that within the whole of this script it would read it all once more.
queueMicrotask(() => void navigator.locks.request(port.name, () => new Promise<never>(() => undefined)));

port.onmessage = ({ data }) =>
  void workshop
    .take(data, (answer, transfer) => port.postMessage(answer, transfer))
    .catch((error: unknown) =>
      // Out of the promise, so that the page hears of it and has the worker replaced.
      setTimeout(() => {
        throw error;
      })
    );
port.postMessage({ type: 'ready' }, []);
