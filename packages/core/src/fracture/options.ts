import type { Outcome, Progress } from "../common";
import type { FractureOption } from "../shot";
import { SLIVER_OPTIONS } from "./slivers";
import type { FractureInput, FractureMethod, FractureOptions, OptionSpec, Pieces } from "./types";

export const optionDefaults = (method: FractureMethod): Record<string, FractureOption> =>
	Object.fromEntries(Object.entries(method.options).flatMap(([name, spec]) => ("default" in spec ? [[name, spec.default]] : [])));

/** The options that matter with these settings, in the order of the bench. */
export const shownOptions = (method: FractureMethod, options: FractureOptions): [string, OptionSpec][] => {
	const all = { ...optionDefaults(method), ...options };
	return Object.entries(method.options).filter(([, spec]) => spec.when?.(all) ?? true);
};

/** A sentence where an option is unknown or out of its limits; else undefined. */
export function optionProblem(method: FractureMethod, options: FractureOptions): string | undefined {
	for (const [name, value] of Object.entries(options)) {
		const spec = method.options[name];
		if (!spec) return `${method.label} has no option “${name}”.`;
		if (spec.kind === "number" && !(typeof value === "number" && value >= spec.least && value <= spec.most))
			return `${spec.label} must lie between ${spec.least.toLocaleString("en")} and ${spec.most.toLocaleString("en")}${spec.unit && ` ${spec.unit}`}, not ${typeof value === "number" ? value.toLocaleString("en") : `“${value}”`}.`;
		if (spec.kind === "choice" && !spec.choices.some((choice) => choice.id === value))
			return `${spec.label} must be one of ${spec.choices.map((choice) => choice.id).join(", ")}.`;
	}
	return undefined;
}

/**
 * A method whose `run` knows the type of its own options: `breakMesh` has completed and checked them by their descriptions.
 * What may be done with slivers is the same for all.
 */
export const defineMethod = <Options>(
	method: Omit<FractureMethod, "run"> & {
		readonly run: (input: FractureInput, options: Options, progress: Progress) => Promise<Outcome<Pieces>>;
	},
): FractureMethod => ({ ...method, options: { ...method.options, ...SLIVER_OPTIONS } }) as unknown as FractureMethod;
