/** The few names of WebAssembly that are used, where there is any; the core compiles without a browser's or Node's types. */
export interface WasmMemory {
  readonly buffer: ArrayBuffer;
}

export interface WasmHost {
  readonly Module: new (bytes: Uint8Array) => object;
  readonly Instance: new (
    module: object,
    imports: object,
  ) => { readonly exports: Readonly<Record<string, (...values: number[]) => number>> };
  readonly Memory: new (description: { initial: number }) => WasmMemory;
}

/** Undefined where modules may not be made. */
export const wasmHost = (): WasmHost | undefined => (globalThis as unknown as { WebAssembly?: WasmHost }).WebAssembly;
