import { type Command, type OptionSpec, together } from "@rubble/core/shot";
import { shownAs, spread } from "~/controls/spread";
import { useWorkbench } from "~/workbench/store/store";

type Shown = readonly (readonly [name: string, spec: OptionSpec])[];

/** The option into which several quantities were typed, and those of its unit that are shown after it. */
export const severalOf = (shown: Shown, from: string, texts: readonly string[]): [name: string, value: number][] =>
	spread(
		shown.flatMap(([name, spec]) => (spec.kind === "number" ? [[name, spec, shownAs(spec, spec.default)] as const] : [])),
		from,
		texts,
		useWorkbench.getState().shot.settings.fps,
	);

/** Sets them. */
export const setSeveral = (shown: Shown, from: string, texts: readonly string[], set: (name: string, value: number) => Command): Command =>
	together(
		"Set numbers",
		severalOf(shown, from, texts).map(([name, value]) => set(name, value)),
	);
