import { bad, good, type Outcome } from "../common";
import { type OptionValues, optionDefaults, optionProblem } from "../shot";
import { grid } from "./grid";
import { inVolume } from "./inVolume";
import { line } from "./line";
import { onSurface } from "./onSurface";
import { ring } from "./ring";
import { MOST_COPIES } from "./specs";
import type { Copies, Layout, LayoutInput } from "./types";
import { VARY_OPTIONS, vary } from "./vary";

export { estimateFill, type FillEstimate, type FillItem } from "./packing";
export type { Copies, Layout, LayoutInput } from "./types";

const complete = (layout: Layout): Layout => ({ ...layout, options: { ...layout.options, ...VARY_OPTIONS } });

/** Every way to lay out copies, in the order of the bench. A new one is a file beside this and a line here. */
export const LAYOUTS: readonly Layout[] = [grid, line, ring, onSurface, inVolume].map(complete);

export const layoutById = (id: string): Layout | undefined => LAYOUTS.find((layout) => layout.id === id);

/** Options to begin with for sources of this size. */
export const layoutOptions = (layout: Layout, bounds: LayoutInput["bounds"]): OptionValues => ({
	...optionDefaults(layout),
	...layout.suggest(bounds),
});

/** Checks the options and places all copies. */
export function layOut(layout: Layout, input: LayoutInput, sources: number, options: OptionValues): Outcome<Copies> {
	const problem = optionProblem(layout, options);
	if (problem) return bad(problem);
	const all = { ...optionDefaults(layout), ...options };
	if (Number(all.smallest) > Number(all.largest)) return bad("The smallest size is larger than the largest.");
	const places = layout.place(input, all);
	if (!places.ok) return places;
	if (places.value.count > MOST_COPIES)
		return bad(`These are ${places.value.count.toLocaleString("en")} copies; up to ${MOST_COPIES.toLocaleString("en")} can be made.`);
	return good(vary(places.value, sources, all));
}
