import type { FrameStore } from "../../cache";
import { formatQuantity, setSettings } from "../../shot";
import type { EngineFactory } from "../engine/types";
import { overlapsAt } from "../overlaps";
import { Kind, type SimScene } from "../scene";
import { twiceTheSubsteps } from "./twiceTheSubsteps";
import type { Check, CheckContext, Finding } from "./types";

/** Things sink into each other by a share of their thickness, as the solver has it; more than this is seen. */
const SHARE = 0.08;
/** And as a share of the size that most things have in the picture: what lies less deep than this nobody sees. */
const SEEN = 0.02;

/** The least depth, metres, at which something in something else is seen. */
function leastSunk({ count, kind, size }: SimScene): number {
	const sizes = Array.from({ length: count }, (_, i) => i)
		.filter((i) => kind[i] === Kind.Active)
		.map((i) => size[i]!)
		.sort((a, b) => a - b);
	return SEEN * (sizes[sizes.length >> 1] ?? 1);
}

/** What lies in what, deep enough to be seen, in the last stored frame of a run; undefined where there is none. */
export async function sunkAtEnd(scene: SimScene, factory: EngineFactory, run: FrameStore): Promise<CheckContext["sunk"]> {
	const last = run.chunks.at(-1);
	if (!last) return undefined;
	const frame = last.firstFrame + last.frames - 1;
	return { frame, overlaps: await overlapsAt(scene, factory, run, frame, leastSunk(scene)) };
}

/** How deep things lie in each other when the run ends, where it shows. */
export const sankIn: Check = {
	id: "sank-in",
	find: ({ shot, scene, sunk }): Finding[] => {
		if (!scene || !sunk) return [];
		const least = leastSunk(scene);
		const deep = sunk.overlaps
			.filter(({ a, b, depth }) => depth > Math.max(least, SHARE * Math.min(scene.thickness[a]!, scene.thickness[b]!)))
			.sort((one, other) => other.depth - one.depth);
		const worst = deep[0];
		if (!worst) return [];
		const { solverIterations } = shot.settings;
		return [
			{
				check: "sank-in",
				level: "warning",
				about: [scene.ids[worst.a]!, scene.ids[worst.b]!],
				message: `At frame ${sunk.frame} ${scene.paths[worst.b]} lies ${formatQuantity(worst.depth, "length", 2)} in ${scene.paths[worst.a]}${deep.length > 1 ? `, and ${deep.length - 1} more ${deep.length === 2 ? "pair is" : "pairs are"} in each other` : ""}.`,
				fixes: [
					...(solverIterations < 12 ? [{ label: "Solve more exactly", command: setSettings({ solverIterations: 12 }) }] : []),
					...twiceTheSubsteps(shot),
				],
			},
		];
	},
};
