/** The WebAssembly codecs that the core uses; where their bytes come from is the host's affair. */
export type WasmName = 'jpeg-decode' | 'jpeg-encode' | 'lcms';
type WasmProvider = (name: WasmName) => Promise<WebAssembly.Module>;

let provider: WasmProvider | null = null;

/** Called once by each host (browser worker, Node thread) before files are opened. */
export function provideWasm(from: WasmProvider): void {
  provider = from;
}

export function wasmModule(name: WasmName): Promise<WebAssembly.Module> {
  if (!provider) throw new Error('No provider of WebAssembly codecs was set.');
  return provider(name);
}
