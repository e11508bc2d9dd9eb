import type { FractureOption } from "../shot";
import type { FractureMethod, FractureOptions } from "./types";

export const optionDefaults = (method: FractureMethod): Record<string, FractureOption> =>
	Object.fromEntries(Object.entries(method.options).flatMap(([name, spec]) => (spec.kind === "points" ? [] : [[name, spec.default]])));

/** A sentence where an option is unknown or out of its limits; else undefined. */
export function optionProblem(method: FractureMethod, options: FractureOptions): string | undefined {
	for (const [name, value] of Object.entries(options)) {
		const spec = method.options[name];
		if (!spec) return `${method.label} has no option “${name}”.`;
		if (spec.kind === "number" && !(typeof value === "number" && value >= spec.least && value <= spec.most))
			return `${spec.label} must lie between ${spec.least} and ${spec.most}${spec.unit && ` ${spec.unit}`}.`;
		if (spec.kind === "choice" && !spec.choices.some((choice) => choice.id === value))
			return `${spec.label} must be one of ${spec.choices.map((choice) => choice.id).join(", ")}.`;
	}
	return undefined;
}
