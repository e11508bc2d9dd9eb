import { defineForce } from "./define";
import { bySpec, strengthSpec } from "./specs";
import type { FieldPoint } from "./types";

/** Along a line of beacons, and back to it. The falloff goes by the distance from the line. */
export const stream = defineForce({
	id: "stream",
	label: "Stream",
	help: "Along a line of beacons, in their order, and back to it",
	options: {
		strength: strengthSpec("m/s²", 10),
		by: bySpec,
		through: { kind: "places", label: "Through", help: "Beacons in the order in which they are ticked" },
		inward: {
			kind: "number",
			label: "Inward",
			unit: "1/s²",
			default: 20,
			least: 0,
			most: 1e6,
			help: "How hard it pulls back to the line: so many m/s² for each metre away from it",
		},
	},
	field:
		({ inward }, places) =>
		(out, at, strength, share) => {
			const near = nearestOnLine(places, at);
			if (!near) return;
			const offset = [near.x - at.x, near.y - at.y, near.z - at.z];
			for (let k = 0; k < 3; k++) out[k] = strength * near.along[k]! + share * Number(inward) * offset[k]!;
		},
	distanceOf: (places) => (at) => {
		const near = nearestOnLine(places, at);
		return near ? Math.sqrt((near.x - at.x) ** 2 + (near.y - at.y) ** 2 + (near.z - at.z) ** 2) : Infinity;
	},
});

function nearestOnLine(line: readonly number[], { x, y, z }: FieldPoint) {
	let best: { x: number; y: number; z: number; along: readonly [number, number, number] } | undefined;
	let least = Infinity;
	for (let i = 3; i < line.length; i += 3) {
		const [ax, ay, az] = [line[i - 3]!, line[i - 2]!, line[i - 1]!];
		const [dx, dy, dz] = [line[i]! - ax, line[i + 1]! - ay, line[i + 2]! - az];
		const length = Math.sqrt(dx * dx + dy * dy + dz * dz);
		if (length === 0) continue;
		const t = Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy + (z - az) * dz) / (length * length)));
		const p = { x: ax + t * dx, y: ay + t * dy, z: az + t * dz };
		const d = (p.x - x) ** 2 + (p.y - y) ** 2 + (p.z - z) ** 2;
		if (d < least) {
			least = d;
			best = { ...p, along: [dx / length, dy / length, dz / length] };
		}
	}
	return best;
}
