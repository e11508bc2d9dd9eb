import { cos, sin } from "../maths";
import { lathe } from "./lathe";
import { length, whole } from "./parameters";
import type { Shape } from "./types";

const segments = whole("Segments", 48, 3, 512, "Flat strips around the axis");

export const cone: Shape = {
	id: "cone",
	label: "Cone",
	help: "Tapers to a point, or to a smaller disc.",
	parameters: {
		radius: length("Radius", 0.4, "At the foot"),
		top: length("Top radius", 0, "At the top; 0 ends in a point", 0),
		height: length("Height", 1, "Along the upright axis"),
		segments,
	},
	build: ({ radius, top, height, segments: n }) =>
		lathe(
			[[0, -height! / 2], [radius!, -height! / 2], ...(top! > 0 ? [[top!, height! / 2] as const] : []), [0, height! / 2]],
			Math.round(n!),
		),
};

export const tube: Shape = {
	id: "tube",
	label: "Tube",
	help: "A pipe, a ring or a well.",
	parameters: {
		radius: length("Radius", 0.5, "Outside"),
		wall: length("Wall", 0.1, "Thickness; less than the radius"),
		height: length("Height", 1, "Along the upright axis"),
		segments,
	},
	problem: ({ radius, wall }) => (wall! < radius! ? undefined : "Wall must be thinner than the radius."),
	build: ({ radius, wall, height, segments: n }) => {
		const inner = radius! - wall!;
		const h = height! / 2;
		return lathe(
			[
				[inner, -h],
				[radius!, -h],
				[radius!, h],
				[inner, h],
			],
			Math.round(n!),
		);
	},
};

export const torus: Shape = {
	id: "torus",
	label: "Torus",
	help: "A ring of round wire: links, tyres, lifebelts.",
	parameters: {
		radius: length("Radius", 0.5, "From the axis to the middle of the wire"),
		wire: length("Wire radius", 0.12, "Of the wire; less than the radius"),
		segments,
		sides: whole("Sides", 24, 3, 256, "Flat strips around the wire"),
	},
	problem: ({ radius, wire }) => (wire! < radius! ? undefined : "Wire radius must be smaller than the radius."),
	build: ({ radius, wire, segments: n, sides }) => {
		const count = Math.round(sides!);
		return lathe(
			Array.from({ length: count }, (_, i) => {
				const a = (2 * Math.PI * i) / count;
				return [radius! + wire! * cos(a), wire! * sin(a)] as const;
			}),
			Math.round(n!),
		);
	},
};

export const bowl: Shape = {
	id: "bowl",
	label: "Bowl",
	help: "Half of a hollow ball, open at the top.",
	parameters: { radius: length("Radius", 0.5, "Outside"), wall: length("Wall", 0.05, "Thickness; less than the radius"), segments },
	problem: ({ radius, wall }) => (wall! < radius! ? undefined : "Wall must be thinner than the radius."),
	build: ({ radius, wall, segments: n }) => {
		const steps = Math.max(4, Math.round(n! / 4));
		const arc = (r: number) =>
			Array.from({ length: steps + 1 }, (_, i) => {
				const a = (Math.PI / 2) * (i / steps);
				return [i === 0 ? 0 : r * sin(a), radius! / 2 - r * cos(a)] as const;
			});
		return lathe([...arc(radius!), ...arc(radius! - wall!).reverse()], Math.round(n!));
	},
};

export const cup: Shape = {
	id: "cup",
	label: "Cup",
	help: "A straight wall and a floor, open at the top: buckets, tubs, hoppers.",
	parameters: {
		radius: length("Radius", 0.4, "Outside, at the rim"),
		foot: length("Foot radius", 0.4, "Outside, at the floor"),
		height: length("Height", 0.8, "Outside"),
		wall: length("Wall", 0.04, "Thickness of wall and floor"),
		segments,
	},
	problem: ({ radius, foot, height, wall }) =>
		wall! < Math.min(radius!, foot!, height!) ? undefined : "Wall must be thinner than both radii and the height.",
	build: ({ radius, foot, height, wall, segments: n }) => {
		const h = height! / 2;
		const floor = foot! + ((radius! - foot!) * wall!) / height! - wall!;
		return lathe(
			[
				[0, -h],
				[foot!, -h],
				[radius!, h],
				[radius! - wall!, h],
				[floor, -h + wall!],
				[0, -h + wall!],
			],
			Math.round(n!),
		);
	},
};
