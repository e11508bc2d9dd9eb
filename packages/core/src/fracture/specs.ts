import { type OptionSpec, seedSpec } from "../shot";

/** Options that several methods share. */
export const breakSeed = seedSpec("break of the same kind");

export const gapSpec: OptionSpec = {
	kind: "number",
	label: "Gap",
	unit: "m",
	default: 0,
	least: 0,
	most: 10,
	help: "Room between neighbours; it takes volume away",
};

export const axisSpec: OptionSpec = {
	kind: "choice",
	label: "Across",
	default: "y",
	choices: [
		{ id: "x", label: "x", help: "The object's x axis" },
		{ id: "y", label: "Upright", help: "The object's upright axis" },
		{ id: "z", label: "z", help: "The object's z axis" },
	],
	help: "The axis that the cuts lie across",
};

export const shareSpec = (label: string, fallback: number, help: string): OptionSpec => ({
	kind: "number",
	label,
	unit: "",
	default: fallback,
	least: 0,
	most: 1,
	percent: true,
	help,
});
