import { wrap } from "comlink";
import type { CoreWorker } from "./messages";

/** The core in its own thread, once per page. Callbacks must be wrapped with comlink's `proxy`. */
let client: ReturnType<typeof wrap<CoreWorker>> | undefined;

export function coreWorker() {
	client ??= wrap<CoreWorker>(new Worker(new URL("./core.worker.ts", import.meta.url), { type: "module", name: "core" }));
	return client;
}
