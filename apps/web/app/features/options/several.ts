import { type Command, type OptionSpec, together } from "@rubble/core/shot";
import { spread } from "~/controls/spread";

/** Sets an option into which several numbers were typed, in SI, and those of its unit that are shown after it. */
export const setSeveral = (
	shown: readonly (readonly [name: string, spec: OptionSpec])[],
	from: string,
	numbers: readonly number[],
	set: (name: string, value: number) => Command,
): Command => {
	const fields = shown.flatMap(([name, spec]) => (spec.kind === "number" ? [[name, spec] as const] : []));
	return together(
		"Set numbers",
		spread(fields, from, numbers).map(([name, value]) => set(name, value)),
	);
};
