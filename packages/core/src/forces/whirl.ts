import { defineForce } from "./define";
import { bySpec, strengthSpec } from "./specs";

const MIDDLE = 1e-6;
const part = (label: string, fallback: number, help: string) =>
	({ kind: "number", label, unit: "m/s²", default: fallback, least: -1e6, most: 1e6, help }) as const;

/** Around its upright axis, with lift along it and pull towards it. The falloff goes by the distance from the axis. */
export const whirl = defineForce({
	id: "whirl",
	label: "Whirl",
	help: "Around an axis, with lift and a pull inwards",
	options: {
		strength: strengthSpec("m/s²", 8),
		by: bySpec,
		lift: part("Lift", 2, "Along the axis"),
		inward: part("Inward", 6, "Towards the axis; keeps things from being thrown out"),
	},
	distanceOf:
		() =>
		({ x, z }) =>
			Math.sqrt(x * x + z * z),
	alwaysActs: true,
	field:
		({ lift, inward }) =>
		(out, { x, z }, strength, share) => {
			const radius = Math.sqrt(x * x + z * z);
			out[1] = Number(lift) * share;
			if (radius < MIDDLE) return;
			const pull = Number(inward) * share;
			// Counter-clockwise seen from above: y × r.
			out[0] = (z * strength - x * pull) / radius;
			out[2] = (-x * strength - z * pull) / radius;
		},
});
