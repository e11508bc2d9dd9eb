import { cos, sin } from "../maths";
import { extrude } from "./extrude";
import { length, whole } from "./parameters";
import type { Shape } from "./types";

export const arch: Shape = {
	id: "arch",
	label: "Arch",
	help: "A half ring that stands on its two feet.",
	parameters: {
		radius: length("Radius", 1.5, "Of the opening"),
		thickness: length("Thickness", 0.3, "Of the ring, from the opening outwards"),
		depth: length("Depth", 0.6, "Along the passage"),
		segments: whole("Segments", 48, 4, 512, "Flat strips along the arch"),
	},
	build: ({ radius, thickness, depth, segments }) => {
		const n = Math.round(segments!);
		const outer = radius! + thickness!;
		const points = [radius!, outer].flatMap((r) =>
			Array.from({ length: n + 1 }, (_, i) => {
				const a = (Math.PI * i) / n;
				return [r * cos(a), r * sin(a) - outer / 2] as const;
			}),
		);
		const out = (i: number) => n + 1 + i;
		const rim = [...Array.from({ length: n + 1 }, (_, i) => out(i)), ...Array.from({ length: n + 1 }, (_, i) => n - i)];
		const faces = Array.from({ length: n }, (_, i) => [i, out(i), out(i + 1), i + 1]);
		return extrude(points, rim, faces, depth!);
	},
};

export const wedge: Shape = {
	id: "wedge",
	label: "Wedge",
	help: "A ramp: half of a box, cut along its slope.",
	parameters: {
		width: length("Length", 1, "Along the slope's foot"),
		height: length("Height", 0.5, "At its high end"),
		depth: length("Width", 1, "Across the slope"),
	},
	build: ({ width, height, depth }) =>
		extrude(
			[
				[-width! / 2, -height! / 2],
				[width! / 2, -height! / 2],
				[width! / 2, height! / 2],
			],
			[0, 1, 2],
			[[0, 1, 2]],
			depth!,
		),
};
