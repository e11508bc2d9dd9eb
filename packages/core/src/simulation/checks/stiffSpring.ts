import { formatNumber, setSettings } from "../../shot";
import { Kind } from "../scene";
import type { Check, Finding } from "./types";

/** Substeps that a swing needs to be seen as one. */
const STEPS_A_SWING = 12;
const MOST_STEPS_PER_SECOND = 1200;

/** Springs that swing faster than the substeps can follow: they hold, but as if they were rigid. */
export const stiffSpring: Check = {
	id: "stiff-spring",
	find: ({ shot, scene }): Finding[] => {
		if (!scene) return [];
		const { settings } = shot;
		const found = new Map<string, { rate: number; body: number }>();
		for (const { kind, connector, a, b, options } of scene.joints) {
			if (kind !== "spring") continue;
			const light = [a, b].reduce((sum, i) => sum + (i >= 0 && scene.kind[i] === Kind.Active ? 1 / scene.mass[i]! : 0), 0);
			const rate = (Math.sqrt((options.stiffness ?? 0) * light) / (2 * Math.PI)) * settings.timeScale;
			if (rate * STEPS_A_SWING <= settings.stepsPerSecond || rate <= (found.get(connector)?.rate ?? 0)) continue;
			found.set(connector, { rate, body: a });
		}
		return [...found].map(([connector, { rate, body }]) => {
			const wanted = Math.ceil((rate * STEPS_A_SWING) / settings.fps) * settings.fps;
			return {
				check: "stiff-spring",
				level: "note",
				about: [scene.ids[body]!],
				message: `“${shot.connectors[connector]!.name}” swings ${formatNumber(rate, 2)} times a second; ${formatNumber(settings.stepsPerSecond, 3)} substeps a second see it as nearly rigid.`,
				fixes:
					wanted <= MOST_STEPS_PER_SECOND
						? [{ label: `${formatNumber(wanted / settings.fps)} substeps a frame`, command: setSettings({ stepsPerSecond: wanted }) }]
						: [],
			};
		});
	},
};
