import { curlNoise } from "../maths";
import { seedSpec } from "../shot";
import { defineForce } from "./define";
import { bySpec, strengthSpec } from "./specs";

/** Swirls without sources or sinks: the curl of a smooth noise (Bridson, Hourihan and Nordenstam 2007). */
export const turbulence = defineForce({
	id: "turbulence",
	label: "Turbulence",
	help: "Swirls that mix without gathering things anywhere",
	options: {
		strength: strengthSpec("m/s²", 6),
		by: bySpec,
		size: { kind: "number", label: "Size", unit: "m", default: 0.8, least: 1e-3, most: 10_000, help: "Across a swirl" },
		speed: {
			kind: "number",
			label: "Change",
			unit: "/s",
			default: 0.5,
			least: 0,
			most: 100,
			help: "How often in a second the swirls are others",
		},
		seed: seedSpec("pattern of the same kind"),
	},
	field: ({ size, speed, seed }) => {
		const scale = 1 / Number(size);
		return (out, { x, y, z, seconds }, strength) => {
			curlNoise(out, x * scale, y * scale, z * scale, seconds * Number(speed), Number(seed));
			for (let k = 0; k < 3; k++) out[k]! *= strength;
		};
	},
});
