/** The few globals that browsers, workers and Node share and the core may use; nothing else of any platform. */
declare class TextEncoder {
	encode(text: string): Uint8Array<ArrayBuffer>;
}
declare class TextDecoder {
	constructor(label?: string, options?: { fatal?: boolean });
	decode(bytes: ArrayBufferView | ArrayBuffer): string;
}
declare function atob(text: string): string;
