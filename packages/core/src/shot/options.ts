import { curveProblem } from "../maths";
import type { OptionValue } from "./types";

export type OptionValues = Readonly<Record<string, OptionValue>>;

interface SpecBase {
	readonly label: string;
	readonly help: string;
	/** Whether the bench shows it, given the other options; always where absent. */
	readonly when?: (options: OptionValues) => boolean;
}

/** One setting of a way to break, to lay out copies, …: bench, command line and checks follow from it. */
export type OptionSpec = SpecBase &
	(
		| {
				readonly kind: "number";
				readonly unit: string;
				readonly default: number;
				readonly least: number;
				readonly most: number;
				readonly whole?: boolean;
				/** A share, which the bench shows in percent. */
				readonly percent?: true;
		  }
		| {
				readonly kind: "choice";
				readonly default: string;
				readonly choices: readonly { readonly id: string; readonly label: string; readonly help: string }[];
		  }
		/** Points of a curve, x and y in turn: how something grows over frames, or falls off with distance. */
		| {
				readonly kind: "curve";
				readonly default: readonly number[];
				/** What x is, and in which unit. */
				readonly across: { readonly label: string; readonly unit: string };
				/** Limits of y; shares are shown in percent. */
				readonly least: number;
				readonly most: number;
				readonly percent?: true;
		  }
		/** 3 numbers per point, metres in the object's frame. */
		| { readonly kind: "points" }
		/** 4 numbers per plane: direction and distance along it, metres in the object's frame. */
		| { readonly kind: "planes" }
		/** Lines of 3 numbers per point, metres in the object's frame. */
		| { readonly kind: "strokes" }
		/** Text: which bodies are meant, see `bodies/rule.ts`. */
		| { readonly kind: "rule" }
		/** An asset of PNG or JPEG bytes. */
		| { readonly kind: "picture" }
		/** Ids of other objects, of which the solids are meant. */
		| { readonly kind: "objects" }
		/** Ids of other objects, of which the places are meant. */
		| { readonly kind: "places" }
	);

/** The seed of what is random. `what`: what another number gives another one of. */
export const seedSpec = (what: string): OptionSpec => ({
	kind: "number",
	label: "Seed",
	unit: "",
	default: 7,
	least: 0,
	most: 999_999,
	whole: true,
	help: `Another number gives another ${what}`,
});

/** Anything that is set up by described options. */
export interface Described {
	readonly label: string;
	readonly options: Readonly<Record<string, OptionSpec>>;
}

export const optionDefaults = ({ options }: Described): Record<string, OptionValue> =>
	Object.fromEntries(Object.entries(options).flatMap(([name, spec]) => ("default" in spec ? [[name, spec.default]] : [])));

/** The options that matter with these settings, in the order of the bench. */
export const shownOptions = (described: Described, values: OptionValues): [string, OptionSpec][] => {
	const all = { ...optionDefaults(described), ...values };
	return Object.entries(described.options).filter(([, spec]) => spec.when?.(all) ?? true);
};

/** A sentence where an option is unknown or out of its limits; else undefined. */
export function optionProblem({ label, options }: Described, values: OptionValues): string | undefined {
	for (const [name, value] of Object.entries(values)) {
		const spec = options[name];
		if (!spec) return `${label} has no option “${name}”.`;
		if (spec.kind === "number" && !(typeof value === "number" && value >= spec.least && value <= spec.most))
			return `${spec.label} must lie between ${spec.least.toLocaleString("en")} and ${spec.most.toLocaleString("en")}${spec.unit && ` ${spec.unit}`}, not ${typeof value === "number" ? value.toLocaleString("en") : `“${value}”`}.`;
		const curved = spec.kind === "curve" ? curveProblem(value, spec.least, spec.most) : undefined;
		if (curved) return `${spec.label} ${curved}.`;
		if (spec.kind === "choice" && !spec.choices.some((choice) => choice.id === value))
			return `${spec.label} must be one of ${spec.choices.map((choice) => choice.id).join(", ")}.`;
	}
	return undefined;
}
