import { type Command, type OptionSpec, together } from "@rubble/core/shot";
import { spread } from "~/controls/spread";

type Shown = readonly (readonly [name: string, spec: OptionSpec])[];

/** The option into which several numbers were typed, in SI, and those of its unit that are shown after it. */
export const severalOf = (shown: Shown, from: string, numbers: readonly number[]): [name: string, value: number][] =>
	spread(
		shown.flatMap(([name, spec]) => (spec.kind === "number" ? [[name, spec] as const] : [])),
		from,
		numbers,
	);

/** Sets them. */
export const setSeveral = (
	shown: Shown,
	from: string,
	numbers: readonly number[],
	set: (name: string, value: number) => Command,
): Command =>
	together(
		"Set numbers",
		severalOf(shown, from, numbers).map(([name, value]) => set(name, value)),
	);
