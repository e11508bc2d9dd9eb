import { formatNumber, formatQuantity, setSettings } from "../../shot";
import { Kind } from "../scene";
import type { Check, Finding } from "./types";

/** A thing that falls through its own size gains √(2 g s); this share of itself it may cross in a step. */
const MOST_SHARE = 0.6;
const MOST_STEPS_PER_SECOND = 1200;

/** Things so small that gravity takes them a good part of their own size in one substep: they shiver and sink in. */
export const tooSmall: Check = {
	id: "too-small",
	find: ({ shot, scene }): Finding[] => {
		if (!scene) return [];
		const { settings } = shot;
		const g = Math.sqrt(settings.gravity.reduce((sum, x) => sum + x * x, 0));
		const dt = settings.timeScale / settings.stepsPerSecond;
		const active = [...scene.kind.keys()].filter((i) => scene.kind[i] === Kind.Active && scene.size[i]! > 0);
		if (active.length === 0 || g === 0) return [];
		const bySize = [...active].sort((a, b) => scene.size[a]! - scene.size[b]!);
		// A few crumbs are no reason: the middle one speaks for all.
		const middle = bySize[bySize.length >> 1]!;
		const size = scene.size[middle]!;
		const share = (Math.sqrt(2 * g * size) * dt) / size;
		if (share <= MOST_SHARE) return [];
		const wanted = Math.min(MOST_STEPS_PER_SECOND, Math.ceil((settings.stepsPerSecond * share) / MOST_SHARE / settings.fps) * settings.fps);
		return [
			{
				check: "too-small",
				level: "warning",
				about: [scene.ids[middle]!],
				message: `${scene.paths[middle]} is ${formatQuantity(size, "length", 2)} across and falls ${formatNumber(100 * share, 2)} % of that in a substep, as do half of the bodies: they will shiver. Take more substeps, or model ten times larger and let time run √10 = 3.2 times as fast.`,
				fixes:
					wanted > settings.stepsPerSecond
						? [
								{
									label: `${formatNumber(settings.stepsPerSecond / settings.fps)} → ${formatNumber(wanted / settings.fps)} substeps`,
									command: setSettings({ stepsPerSecond: wanted }),
								},
							]
						: [],
			},
		];
	},
};
