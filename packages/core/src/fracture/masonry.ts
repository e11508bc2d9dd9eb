import { bad, good, type Outcome } from "../common";
import { cos, random, sin } from "../maths";
import { bounds, boundsSize, type Mesh } from "../mesh";
import type { OptionValues } from "../shot";
import { assemble, type CarvedCell } from "./assemble";
import { carveCells } from "./carve";
import type { Cell } from "./cells";
import { defineMethod } from "./options";
import { faceAlong, makePrisms, type Side } from "./prisms";
import { breakSeed, shareSpec } from "./specs";

export interface MasonryOptions {
	readonly shape: "wall" | "arch" | "ring";
	readonly pattern: "running" | "stacked" | "headers";
	/** Wanted size of a brick, metres; made to fit so that no slivers are left at the rim. */
	readonly length: number;
	readonly height: number;
	/** Across the wall; 0: one brick through the whole thickness. */
	readonly depth: number;
	/** Metres of mortar between two bricks. */
	readonly joint: number;
	readonly mortar: "pieces" | "gap";
	/** 0 to 1. */
	readonly irregular: number;
	readonly seed: number;
}

const MOST_BRICKS = 20_000;
const size = (label: string, fallback: number, help: string, least = 0.002) =>
	({ kind: "number", label, unit: "m", default: fallback, least, most: 100, help }) as const;
const isWall = ({ shape }: OptionValues): boolean => shape === "wall";

/**
 * Bricks and mortar. A wall is laid in level courses along its longer level side; an arch or a ring is laid around its
 * middle in rows across its depth. Bricks come out in the size nearest to the wanted one that fills the length in whole
 * bricks, so the numbers follow from the pattern: see `courseJoints`.
 */
export const masonry = defineMethod<MasonryOptions>({
	id: "masonry",
	label: "Masonry",
	help: "Bricks in a pattern, with mortar between them: walls, piers, arches, rings.",
	options: {
		shape: {
			kind: "choice",
			label: "Built as",
			default: "wall",
			choices: [
				{ id: "wall", label: "Wall", help: "Level courses: walls and piers" },
				{ id: "arch", label: "Arch", help: "Wedges around the middle of its foot" },
				{ id: "ring", label: "Ring", help: "Wedges around its middle" },
			],
			help: "What the bricks are laid along",
		},
		pattern: {
			kind: "choice",
			label: "Pattern",
			default: "running",
			choices: [
				{ id: "running", label: "Running", help: "Each course half a brick further" },
				{ id: "stacked", label: "Stacked", help: "Joints above each other" },
				{ id: "headers", label: "Headers", help: "Courses of long and of short sides in turn" },
			],
			help: "How courses lie on each other",
		},
		length: size("Brick length", 0.24, "Along the course"),
		height: { ...size("Brick height", 0.115, "Of a course"), when: isWall },
		depth: size("Brick depth", 0, "Across the wall; 0 goes through its whole thickness", 0),
		joint: size("Joint", 0.01, "Mortar between two bricks", 0.0005),
		mortar: {
			kind: "choice",
			label: "Mortar",
			default: "pieces",
			choices: [
				{ id: "pieces", label: "Pieces", help: "Pieces of their own" },
				{ id: "gap", label: "Gap", help: "Left out" },
			],
			help: "What fills the joints",
		},
		irregular: shareSpec("Irregular", 0, "How far joints wander"),
		seed: breakSeed,
	},
	estimate: () => 1.2,
	run: async ({ solids, mesh, volume }, options, progress) => {
		const laid = options.shape === "wall" ? layWall(mesh, options) : layRound(mesh, options);
		if (!laid.ok) return laid;
		const prism = makePrisms(mesh, laid.value.face);
		const cells: Cell[] = [];
		const groups: string[] = [];
		for (const block of laid.value.blocks) {
			if (block.group === "mortar" && options.mortar === "gap") continue;
			const cell = prism(cells.length, block.sides);
			if (!cell) continue;
			cells.push(cell);
			groups.push(block.group);
		}
		const carved: CarvedCell[] = (await carveCells(solids, mesh, cells, progress)).map((cell) => ({ ...cell, group: groups[cell.seed]! }));
		const pieces = assemble(carved, volume, "surface");
		if (pieces.pieces.length === 0) return bad("Masonry: no brick was left; is the joint wider than the bricks?");
		if (options.mortar === "pieces" && Math.abs(pieces.lacking) > 1e-6 * volume)
			return bad(
				`Masonry: joints meet in the middle, because the hole of this ${options.shape} is too small. Take a wider hole, longer bricks or thinner joints.`,
			);
		return good(pieces);
	},
});

interface Block {
	readonly group: "brick" | "mortar";
	readonly sides: readonly Side[];
}
interface Laid {
	readonly face: ReturnType<typeof faceAlong>;
	readonly blocks: readonly Block[];
}

/** How many pieces of about `wanted` metres, with joints between them, fill a length. */
const fit = (length: number, wanted: number, joint: number): number => Math.max(1, Math.round((length + joint) / (wanted + joint)));

/**
 * Middles of the upright joints of one course of `count` bricks: `count` − 1 of them, or, where the course is shifted by
 * half a brick, `count`, which leaves half bricks at both ends.
 */
function courseJoints(from: number, pitch: number, count: number, shifted: boolean, wander: (k: number) => number): number[] {
	return Array.from({ length: shifted ? count : count - 1 }, (_, k) => from + pitch * (k + (shifted ? 0.5 : 1)) + pitch * wander(k));
}

/** Planes across an axis of the face, each with a tag of its own that both its sides share. */
function makeTags() {
	const tags = new Map<string, number>();
	return (key: string): number => {
		const known = tags.get(key);
		if (known !== undefined) return known;
		tags.set(key, tags.size);
		return tags.size - 1;
	};
}

/** From `low` to `high` along axis `k` of the face; an infinite end is the rim and needs no side. */
function between(k: number, low: number, high: number, tag: (key: string) => number): Side[] {
	const side = (sign: 1 | -1, at: number): Side => {
		const n: [number, number, number] = [0, 0, 0];
		n[k] = sign;
		return { n, d: sign * at, tag: tag(`${k}:${at}`) };
	};
	return [...(Number.isFinite(low) ? [side(-1, low)] : []), ...(Number.isFinite(high) ? [side(1, high)] : [])];
}

/** Rooms between joints: from the rim to the first joint, from joint to joint, from the last one to the rim. */
function rooms(joints: readonly number[], joint: number): (readonly [number, number])[] {
	const ends = [-Infinity, ...joints.map((at) => at + joint / 2)];
	return ends.map((low, i) => [low, i < joints.length ? joints[i]! - joint / 2 : Infinity] as const);
}

function layWall(mesh: Mesh, { pattern, length, height, depth, joint, irregular, seed }: MasonryOptions): Outcome<Laid> {
	const extents = boundsSize(bounds(mesh));
	const face = faceAlong(mesh, extents[0] >= extents[2] ? 2 : 0);
	const [width, tall, thick] = [0, 1, 2].map((k) => face.max[k]! - face.min[k]!) as [number, number, number];
	const courses = fit(tall, height, joint);
	const columns = fit(width, length, joint);
	const leaves = depth > 0 ? fit(thick, depth, joint) : 1;
	if (courses * columns * leaves > MOST_BRICKS)
		return bad(
			`Masonry: ${(courses * columns * leaves).toLocaleString("en")} bricks would be laid; the most is ${MOST_BRICKS.toLocaleString("en")}. Take larger bricks.`,
		);
	const pitch = (width + joint) / columns;
	const rise = (tall + joint) / courses;
	const step = (thick + joint) / leaves;
	if (joint >= Math.min(pitch, rise, step)) return bad(`Masonry: a joint of ${joint * 1000} mm leaves nothing of the bricks.`);
	const tag = makeTags();
	const blocks: Block[] = [];
	const from = face.min[0] - joint / 2;
	const beds = Array.from(
		{ length: courses - 1 },
		(_, k) => face.min[1] - joint / 2 + rise * (k + 1 + 0.3 * irregular * (random(seed, k, 0) - 0.5)),
	);
	const collars = Array.from({ length: leaves - 1 }, (_, k) => face.min[2] - joint / 2 + step * (k + 1));
	for (const [course, [low, high]] of rooms(beds, joint).entries()) {
		const headers = pattern === "headers" && course % 2 === 1;
		const upright = between(1, low, high, tag);
		const wander = (leaf: number) => (k: number) => 0.5 * irregular * (random(seed, (course * 64 + leaf) * 4096 + k, 1) - 0.5);
		const jointsOf = (leaf: number) =>
			headers
				? courseJoints(from, pitch / 2, 2 * columns, true, wander(leaf))
				: courseJoints(from, pitch, columns, pattern === "running" && (course + leaf) % 2 === 1, wander(leaf));
		// Headers go through the whole thickness.
		const layers = headers ? [[-Infinity, Infinity] as const] : rooms(collars, joint);
		for (const [leaf, [front, back]] of layers.entries()) {
			const through = between(2, front, back, tag);
			const joints = jointsOf(leaf);
			for (const [left, right] of rooms(joints, joint))
				blocks.push({ group: "brick", sides: [...between(0, left, right, tag), ...upright, ...through] });
			for (const at of joints)
				blocks.push({ group: "mortar", sides: [...between(0, at - joint / 2, at + joint / 2, tag), ...upright, ...through] });
			if (leaf < layers.length - 1)
				for (const [left, right] of rooms(joints, 0))
					blocks.push({
						group: "mortar",
						sides: [
							...between(0, left, right, tag),
							...upright,
							...between(2, collars[leaf]! - joint / 2, collars[leaf]! + joint / 2, tag),
						],
					});
		}
		// The bed under this course, parted where its bricks end.
		if (course > 0)
			for (const [left, right] of rooms(jointsOf(0), 0))
				blocks.push({
					group: "mortar",
					sides: [...between(0, left, right, tag), ...between(1, beds[course - 1]! - joint / 2, beds[course - 1]! + joint / 2, tag)],
				});
	}
	return good({ face, blocks });
}

/** The axis of a ring: across it both other extents are alike. Of an arch: its shorter level side. */
function axisOf([x, y, z]: readonly [number, number, number], shape: MasonryOptions["shape"]): number {
	if (shape === "arch") return x >= z ? 2 : 0;
	const unlike = [Math.abs(y - z), Math.abs(x - z), Math.abs(x - y)];
	return unlike.indexOf(Math.min(...unlike));
}

/** Wedges around a middle; rows along its axis, each half a brick further. */
function layRound(mesh: Mesh, { shape, pattern, length, depth, joint, irregular, seed }: MasonryOptions): Outcome<Laid> {
	const face = faceAlong(mesh, axisOf(boundsSize(bounds(mesh)), shape));
	const [width, tall, thick] = [0, 1, 2].map((k) => face.max[k]! - face.min[k]!) as [number, number, number];
	const full = shape === "ring";
	const radius = full ? Math.min(width, tall) / 2 : width / 2;
	const centre = [(face.min[0] + face.max[0]) / 2, full ? (face.min[1] + face.max[1]) / 2 : face.min[1]] as const;
	const sweep = full ? 2 * Math.PI : Math.PI;
	const around = Math.max(3, Math.round((sweep * radius) / (length + joint)));
	const rows = depth > 0 ? fit(thick, depth, joint) : 1;
	if (around * rows > MOST_BRICKS)
		return bad(
			`Masonry: ${(around * rows).toLocaleString("en")} bricks would be laid; the most is ${MOST_BRICKS.toLocaleString("en")}. Take larger bricks.`,
		);
	const pitch = sweep / around;
	const step = (thick + joint) / rows;
	if (joint >= Math.min(pitch * radius, step)) return bad(`Masonry: a joint of ${joint * 1000} mm leaves nothing of the bricks.`);
	const tag = makeTags();
	const collars = Array.from({ length: rows - 1 }, (_, k) => face.min[2] - joint / 2 + step * (k + 1));
	const blocks: Block[] = [];
	/** The plane through the middle at an angle, moved by `off` metres; keeps what lies before it (1) or behind it (−1). */
	const ray = (angle: number, off: number, keep: 1 | -1): Side => {
		const n = [-sin(angle) * keep, cos(angle) * keep, 0] as const;
		return { n, d: n[0] * centre[0] + n[1] * centre[1] + keep * off, tag: tag(`ray:${angle}:${off}`) };
	};
	for (const [row, [front, back]] of rooms(collars, joint).entries()) {
		const through = between(2, front, back, tag);
		const shifted = pattern !== "stacked" && row % 2 === 1;
		const wander = (k: number) => 0.4 * irregular * (random(seed, row * 4096 + k, 1) - 0.5);
		const angles = full
			? Array.from({ length: around }, (_, k) => pitch * (k + (shifted ? 0.5 : 0)) + pitch * wander(k))
			: courseJoints(0, pitch, around, shifted, wander);
		const wedges = full
			? angles.map((a, i) => [a, i + 1 < angles.length ? angles[i + 1]! : angles[0]! + 2 * Math.PI] as const)
			: rooms(angles, 0);
		// The first ray again after a full turn is the same cut.
		const same = (angle: number) => (angle >= angles[0]! + 2 * Math.PI ? angles[0]! : angle);
		const wedge = (low: number, high: number, off: number): Side[] => [
			...(Number.isFinite(low) ? [ray(low, off, -1)] : []),
			...(Number.isFinite(high) ? [ray(same(high), -off, 1)] : []),
		];
		for (const [low, high] of wedges) blocks.push({ group: "brick", sides: [...wedge(low, high, joint / 2), ...through] });
		for (const angle of angles) {
			const outward: Side = {
				n: [-cos(angle), -sin(angle), 0],
				d: -cos(angle) * centre[0] - sin(angle) * centre[1],
				tag: tag(`back:${row}:${angle}`),
			};
			blocks.push({ group: "mortar", sides: [ray(angle, -joint / 2, -1), ray(angle, joint / 2, 1), outward, ...through] });
		}
		if (row < rows - 1)
			for (const [low, high] of wedges)
				blocks.push({
					group: "mortar",
					sides: [...wedge(low, high, 0), ...between(2, collars[row]! - joint / 2, collars[row]! + joint / 2, tag)],
				});
	}
	return good({ face, blocks });
}
