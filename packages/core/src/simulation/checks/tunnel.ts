import { formatNumber, formatQuantity, setSettings } from "../../shot";
import { Kind, type SimScene } from "../scene";
import type { Check, Finding } from "./types";

/** The engine looks ahead for fast bodies; beyond this many thicknesses in a step even that gets unsure. */
const MOST_THICKNESSES = 4;
const MOST_STEPS_PER_SECOND = 1200;
/** What the fix divides steps into at most. */
const MOST_PARTS = 8;

/** Fast bodies that would cross what is thin within one step. */
export const tunnel: Check = {
	id: "tunnel",
	find: ({ shot, scene }): Finding[] => {
		if (!scene) return [];
		const { settings } = shot;
		let thinnest = -1;
		for (let i = 0; i < scene.count; i++)
			if (scene.kind[i] !== Kind.Animated && scene.thickness[i]! > 0 && (thinnest < 0 || scene.thickness[i]! < scene.thickness[thinnest]!))
				thinnest = i;
		const [fast, speed] = fastest(scene);
		if (fast < 0 || thinnest < 0 || fast === thinnest) return [];
		const way = (speed * settings.timeScale) / settings.stepsPerSecond;
		const reach = Math.max(scene.thickness[thinnest]!, 0) + Math.min(scene.thickness[fast]!, 10);
		if (way <= MOST_THICKNESSES * reach * (settings.mostParts ?? 1)) return [];
		const wanted = Math.min(
			MOST_STEPS_PER_SECOND,
			Math.ceil((settings.stepsPerSecond * way) / (MOST_THICKNESSES * reach) / settings.fps) * settings.fps,
		);
		return [
			{
				check: "tunnel",
				level: "warning",
				about: [scene.ids[fast]!, scene.ids[thinnest]!],
				message: `${scene.paths[fast]} moves ${formatQuantity(way, "length", 2)} in a substep; ${scene.paths[thinnest]} is ${formatQuantity(scene.thickness[thinnest]!, "length", 2)} thin. It may pass through.`,
				fixes:
					wanted > settings.stepsPerSecond
						? [
								{
									label: `${formatNumber(settings.stepsPerSecond / settings.fps)} → ${formatNumber(wanted / settings.fps)} substeps`,
									command: setSettings({ stepsPerSecond: wanted }),
								},
								{ label: "Divide fast substeps", command: setSettings({ mostParts: MOST_PARTS }) },
							]
						: [],
			},
		];
	},
};

/** The fastest body by start velocity or by keys, and its speed in m/s. */
function fastest(scene: SimScene): [number, number] {
	let best = -1;
	let most = 0;
	const note = (i: number, speed: number) => {
		if (speed > most) {
			most = speed;
			best = i;
		}
	};
	for (let i = 0; i < scene.count; i++)
		if (scene.kind[i] === Kind.Active)
			note(i, Math.sqrt(scene.velocity[3 * i]! ** 2 + scene.velocity[3 * i + 1]! ** 2 + scene.velocity[3 * i + 2]! ** 2));
	const { settings } = scene;
	const ticks = ((settings.lastFrame - settings.firstFrame) * 1200) / settings.fps;
	const step = 1200 / settings.stepsPerSecond;
	for (const i of scene.animated) {
		let before = scene.poseAt(i, 0).translation;
		for (let tick = step; tick <= ticks; tick += step) {
			const after = scene.poseAt(i, tick).translation;
			note(i, Math.sqrt((after[0] - before[0]) ** 2 + (after[1] - before[1]) ** 2 + (after[2] - before[2]) ** 2) * settings.stepsPerSecond);
			before = after;
		}
	}
	return [best, most];
}
