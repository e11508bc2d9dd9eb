import type { OptionSpec, OptionValues } from "../shot";

/** What every force has: how strong, where, when, on whom. */
export interface CommonOptions {
	readonly strength: number;
	readonly by: "acceleration" | "force";
	readonly reach: "everywhere" | "falloff";
	readonly falloff: readonly number[];
	readonly axes: "all" | "own";
	readonly shareX: number;
	readonly shareY: number;
	readonly shareZ: number;
	readonly frames: "always" | "between";
	readonly from: number;
	readonly until: number;
	readonly ages: "any" | "between";
	readonly youngest: number;
	readonly oldest: number;
	readonly on: string;
}

const between = (field: string) => (options: OptionValues) => options[field] === "between";
const share = (label: string): OptionSpec => ({
	kind: "number",
	label,
	unit: "",
	percent: true,
	default: 1,
	least: -10,
	most: 10,
	help: "How much of it acts along this axis of the force",
	when: ({ axes }) => axes === "own",
});
const frame = (label: string, fallback: number, field: string, help: string): OptionSpec => ({
	kind: "number",
	label,
	unit: "frame",
	default: fallback,
	least: -100_000,
	most: 100_000,
	whole: true,
	help,
	when: between(field),
});

export const strengthSpec = (unit: string, fallback: number): OptionSpec => ({
	kind: "number",
	label: "Strength",
	unit,
	default: fallback,
	least: -1e6,
	most: 1e6,
	help: "Can be keyed; negative turns it round",
});

/** Which of its own axes a force acts along. */
export const alongSpec = (fallback: "x" | "up" | "z", help: string): OptionSpec => ({
	kind: "choice",
	label: "Along",
	default: fallback,
	choices: [
		{ id: "x", label: "x", help: "Its own x axis" },
		{ id: "up", label: "Up", help: "Its own upright axis" },
		{ id: "z", label: "z", help: "Its own z axis" },
	],
	help,
});

/** The number of the axis that `alongSpec` names. */
export const axisOf = (along: unknown): number => ({ x: 0, up: 1, z: 2 })[String(along)] ?? 1;

export const bySpec: OptionSpec = {
	kind: "choice",
	label: "Acts as",
	default: "acceleration",
	choices: [
		{ id: "acceleration", label: "m/s²", help: "Light and heavy things gain speed alike" },
		{ id: "force", label: "Newton", help: "Heavy things gain less speed" },
	],
	help: "Whether mass matters",
};

export const WHERE_AND_WHEN: Readonly<Record<string, OptionSpec>> = {
	reach: {
		kind: "choice",
		label: "Reach",
		default: "everywhere",
		choices: [
			{ id: "everywhere", label: "Everywhere", help: "Equally strong at any distance" },
			{ id: "falloff", label: "Falls off", help: "By distance, as the curve says" },
		],
		help: "Where it acts",
	},
	falloff: {
		kind: "curve",
		label: "Falloff",
		default: [0, 1, 0.5, 0.8, 1.5, 0],
		across: { label: "Distance", unit: "m" },
		least: 0,
		most: 1,
		percent: true,
		help: "Share of the strength by distance",
		when: ({ reach }) => reach === "falloff",
	},
	axes: {
		kind: "choice",
		label: "Axes",
		default: "all",
		choices: [
			{ id: "all", label: "Alike", help: "All of it acts" },
			{ id: "own", label: "By axis", help: "A share for each of its own axes" },
		],
		help: "How much of it acts along which axis",
	},
	shareX: share("Along x"),
	shareY: share("Along height"),
	shareZ: share("Along z"),
	frames: {
		kind: "choice",
		label: "Acts",
		default: "always",
		choices: [
			{ id: "always", label: "Always", help: "From the first frame on" },
			{ id: "between", label: "In frames", help: "From one frame to another" },
		],
		help: "When it acts",
	},
	from: frame("From", 1, "frames", "The first frame in which it acts"),
	until: frame("Until", 1000, "frames", "The last frame in which it acts"),
	ages: {
		kind: "choice",
		label: "Age",
		default: "any",
		choices: [
			{ id: "any", label: "Any", help: "However long a body has been moving" },
			{ id: "between", label: "Stage", help: "Bodies that woke so many frames ago" },
		],
		help: "Stages: a body leaves one force for another as it gets older",
	},
	youngest: frame("Age from", 0, "ages", "Frames since the body woke"),
	oldest: frame("Age until", 24, "ages", "Frames since the body woke"),
	on: { kind: "rule", label: "Acts on", help: "A rule such as: floats, not passive. Everything where it is empty" },
};
