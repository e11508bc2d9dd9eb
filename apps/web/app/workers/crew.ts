import { Cancelled } from "@rubble/core/common";
import type { Crew, CrewOutput, CrewTask } from "@rubble/core/fracture";
import { type Remote, releaseProxy, wrap } from "comlink";
import type { CrewMember } from "./crew.worker";

/** More threads than this have each too little to do. */
const MOST = 8;
const CANCEL_AFTER = 60; // ms between looks at the signal

interface Member {
	readonly worker: Worker;
	readonly remote: Remote<CrewMember>;
}

/**
 * A thread for every core, begun when there is first something to do. On a single core there is no crew. A cancel ends
 * the threads in the middle of their work; others are begun for the next.
 */
export function makeCrew(cores: number): Crew | undefined {
	if (cores < 2) return undefined;
	let members: Member[] = [];
	const gather = () => {
		while (members.length < Math.min(MOST, cores)) {
			const worker = new Worker(new URL("./crew.worker.ts", import.meta.url), { type: "module", name: "crew" });
			members.push({ worker, remote: wrap<CrewMember>(worker) });
		}
		return members;
	};
	const dismiss = () => {
		for (const { worker, remote } of members) {
			remote[releaseProxy]();
			worker.terminate();
		}
		members = [];
	};
	return {
		run: async (name, inputs, { signal, onProgress }) => {
			const outputs: CrewOutput<CrewTask>[] = [];
			let next = 0;
			let done = 0;
			const work = async ({ remote }: Member) => {
				while (next < inputs.length) {
					const i = next++;
					outputs[i] = await remote.task(name, inputs[i]!);
					await onProgress?.(++done / inputs.length, name === "carve" ? "Cutting" : "");
				}
			};
			let look: ReturnType<typeof setInterval> | undefined;
			const cancelled = new Promise<never>((_, reject) => {
				look = setInterval(() => signal?.aborted && reject(new Cancelled()), CANCEL_AFTER);
			});
			try {
				await Promise.race([Promise.all(gather().map(work)), cancelled]);
				return outputs as CrewOutput<typeof name>[];
			} catch (error) {
				dismiss();
				throw error;
			} finally {
				clearInterval(look);
			}
		},
	};
}
