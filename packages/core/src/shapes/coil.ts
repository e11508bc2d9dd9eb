import { cos, sin, type Vec3, vec3 } from "../maths";
import { makeMesh } from "../mesh";
import { length, whole } from "./parameters";
import type { Shape } from "./types";

const STEPS = 32; // a turn

export const coil: Shape = {
	id: "coil",
	label: "Coil",
	help: "A wire wound upwards: springs, ropes laid down.",
	parameters: {
		radius: length("Radius", 0.3, "From the axis to the middle of the wire"),
		wire: length("Wire radius", 0.03, "Of the wire"),
		turns: { label: "Turns", unit: "", default: 6, least: 0.25, most: 200, help: "How often it goes around" },
		pitch: length("Pitch", 0.12, "From turn to turn; more than the wire is thick"),
		sides: whole("Sides", 16, 3, 128, "Flat strips around the wire"),
	},
	problem: ({ radius, wire, pitch, turns }) => {
		if (wire! >= radius!) return "Wire radius must be smaller than the radius.";
		return turns! > 1 && pitch! <= 2 * wire!
			? "Pitch must be more than twice the wire radius, or the turns would run into each other."
			: undefined;
	},
	build: ({ radius, wire, turns, pitch, sides }) => {
		const n = Math.round(sides!);
		const steps = Math.max(4, Math.round(turns! * STEPS));
		const rise = (pitch! * turns!) / steps;
		const positions: number[] = [];
		const slope = pitch! / (2 * Math.PI * radius!);
		for (let i = 0; i <= steps; i++) {
			const a = (2 * Math.PI * turns! * i) / steps;
			const outward: Vec3 = [cos(a), 0, -sin(a)];
			const along = vec3.normalize([-sin(a), slope, -cos(a)]);
			const up = vec3.cross(outward, along);
			const middle: Vec3 = [radius! * cos(a), rise * i - (pitch! * turns!) / 2, -radius! * sin(a)];
			for (let s = 0; s < n; s++) {
				const b = (2 * Math.PI * s) / n;
				positions.push(...vec3.add(middle, vec3.add(vec3.scale(outward, wire! * cos(b)), vec3.scale(up, wire! * sin(b)))));
			}
		}
		const triangles: number[] = [];
		for (let i = 0; i < steps; i++)
			for (let s = 0; s < n; s++) {
				const t = (s + 1) % n;
				const [a, b, c, d] = [i * n + s, i * n + t, (i + 1) * n + t, (i + 1) * n + s];
				triangles.push(a, c, b, a, d, c);
			}
		for (let s = 1; s + 1 < n; s++) triangles.push(0, s, s + 1, steps * n, steps * n + s + 1, steps * n + s);
		return makeMesh(positions, triangles);
	},
};
