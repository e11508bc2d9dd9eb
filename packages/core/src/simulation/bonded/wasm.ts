/** The little of WebAssembly that kernels need, without the types of any platform. */
interface Wasm {
	readonly Module: new (bytes: Uint8Array) => object;
	readonly Memory: new (descriptor: { readonly initial: number }) => WasmMemory;
	readonly Instance: new (module: object, imports: { readonly env: { readonly memory: WasmMemory } }) => { readonly exports: unknown };
}

export interface WasmMemory {
	readonly buffer: ArrayBuffer;
}

const PAGE = 65_536;
const compiled = new Map<string, object>();

/** A kernel of `kernels/`, as `npm run kernels` writes it down, with memory of its own, bytes. */
export function loadKernel<Kernel>(text: string, size: number): { readonly kernel: Kernel; readonly memory: WasmMemory } {
	const { WebAssembly } = globalThis as unknown as { readonly WebAssembly: Wasm };
	const module = compiled.get(text) ?? new WebAssembly.Module(Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0)));
	compiled.set(text, module);
	const memory = new WebAssembly.Memory({ initial: Math.max(1, Math.ceil(size / PAGE)) });
	return { memory, kernel: new WebAssembly.Instance(module, { env: { memory } }).exports as Kernel };
}
