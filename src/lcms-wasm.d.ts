/** The part of lcms-wasm that is used here; the package ships no types. */
declare module 'lcms-wasm' {
  type Handle = number;
  export interface Lcms {
    cmsOpenProfileFromMem(bytes: Uint8Array, length: number): Handle;
    cmsCloseProfile(profile: Handle): void;
    cmsCreate_sRGBProfile(): Handle;
    cmsCreateLab4Profile(whitePoint?: unknown): Handle;
    cmsCreateXYZProfile(): Handle;
    cmsGetColorSpaceASCII(profile: Handle): string;
    cmsCreateTransform(
      input: Handle,
      inputFormat: number,
      output: Handle,
      outputFormat: number,
      intent: number,
      flags: number
    ): Handle;
    cmsDeleteTransform(transform: Handle): void;
    cmsDoTransform(transform: Handle, input: Float32Array, count: number): Float32Array;
  }
  export function instantiate(options?: {
    instantiateWasm?: (
      imports: WebAssembly.Imports,
      done: (instance: WebAssembly.Instance) => void
    ) => object;
  }): Promise<Lcms>;
}
