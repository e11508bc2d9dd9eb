import { EventKind } from "../../cache";
import { formatNumber, formatQuantity, setSettings } from "../../shot";
import { Kind } from "../scene";
import type { Check, Finding } from "./types";

/** So many times heavier than what bears it, a body is not carried surely. */
const MOST_RATIO = 100;
/** Seconds of blows between the same two before they are spoken of. */
const LASTING = 0.5;
const ENOUGH_ITERATIONS = 16;

/** A heavy body that keeps hammering a light one: the solver needs more iterations than it has to carry it. */
export const massRatio: Check = {
	id: "mass-ratio",
	find: ({ shot, scene, events, sunk }): Finding[] => {
		if (!scene || !events) return [];
		// Where it has been looked at, and nothing has sunk in, it was carried.
		const isCarried = (a: number, b: number) =>
			sunk !== undefined && !sunk.overlaps.some((pair) => (pair.a === a && pair.b === b) || (pair.a === b && pair.b === a));
		const frames = new Map<number, number>();
		for (let k = 0; k < events.kind.length; k++) {
			if (events.kind[k] !== EventKind.Contact) continue;
			const [a, b] = [events.a[k]!, events.b[k]!];
			if (scene.kind[a] !== Kind.Active || scene.kind[b] !== Kind.Active) continue;
			const ratio = scene.mass[a]! / scene.mass[b]!;
			if (ratio > MOST_RATIO || ratio < 1 / MOST_RATIO) frames.set(a * scene.count + b, (frames.get(a * scene.count + b) ?? 0) + 1);
		}
		const lasting = [...frames]
			.filter(([key, count]) => count >= LASTING * shot.settings.fps && !isCarried(Math.floor(key / scene.count), key % scene.count))
			.sort((x, y) => y[1] - x[1]);
		if (lasting.length === 0) return [];
		const pair = lasting[0]![0];
		const [one, other] = [Math.floor(pair / scene.count), pair % scene.count];
		const [heavy, light] = scene.mass[one]! > scene.mass[other]! ? [one, other] : [other, one];
		const { solverIterations } = shot.settings;
		return [
			{
				check: "mass-ratio",
				level: "warning",
				about: [scene.ids[heavy]!, scene.ids[light]!],
				message: `${scene.paths[heavy]} (${formatQuantity(scene.mass[heavy]!, "mass", 3)}) lies on ${scene.paths[light]} (${formatQuantity(scene.mass[light]!, "mass", 3)}), ${formatNumber(scene.mass[heavy]! / scene.mass[light]!, 3)} times lighter: it may sink in or tremble.`,
				fixes:
					solverIterations < ENOUGH_ITERATIONS
						? [
								{
									label: `${solverIterations} → ${2 * solverIterations} iterations`,
									command: setSettings({ solverIterations: 2 * solverIterations }),
								},
							]
						: [],
			},
		];
	},
};
