import { defineForce } from "./define";
import { bySpec, strengthSpec } from "./specs";

/** Nearer than this there is no direction. m */
const MIDDLE = 1e-6;

/** Away from its middle, or towards it. */
export const radial = defineForce({
	id: "radial",
	label: "Burst",
	help: "Away from a point; with a negative strength towards it",
	options: { strength: strengthSpec("m/s²", 20), by: bySpec },
	field:
		() =>
		(out, { x, y, z }, strength) => {
			const distance = Math.sqrt(x * x + y * y + z * z);
			if (distance < MIDDLE) return;
			out[0] = (x / distance) * strength;
			out[1] = (y / distance) * strength;
			out[2] = (z / distance) * strength;
		},
});
