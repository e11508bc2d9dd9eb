import { bad, good, type Outcome, type Progress } from "../common";
import type { Vec3 } from "../maths";
import type { Mesh } from "../mesh";
import { type OptionValues, optionDefaults, optionProblem } from "../shot";
import { grid } from "./grid";
import { hanging } from "./hanging";
import { inVolume } from "./inVolume";
import { line } from "./line";
import { onSurface } from "./onSurface";
import { ring } from "./ring";
import { MOST_COPIES } from "./specs";
import type { Copies, CopyRoom, Layout } from "./types";
import { VARY_OPTIONS, variety, vary } from "./vary";

export { estimateFill, type FillEstimate, type FillItem } from "./packing";
export type { Copies, CopyRoom, Layout, LayoutInput } from "./types";

const complete = (layout: Layout): Layout => ({ ...layout, options: { ...layout.options, ...VARY_OPTIONS } });

/** Every way to lay out copies, in the order of the bench. A new one is a file beside this and a line here. */
export const LAYOUTS: readonly Layout[] = [grid, line, hanging, ring, onSurface, inVolume].map(complete);

export const layoutById = (id: string): Layout | undefined => LAYOUTS.find((layout) => layout.id === id);

/** Options to begin with for sources that take this room. */
export function layoutOptions(layout: Layout, room: CopyRoom): OptionValues {
	const begin = { ...optionDefaults(layout), ...layout.begin };
	return { ...begin, ...suggested(layout, room, begin) };
}

/**
 * What changes with some options. What had been suggested and was left so goes on suiting the copies: steps grow with the
 * largest of them, a ring with their number.
 */
export function withSuggestions(layout: Layout, room: CopyRoom, options: OptionValues, changes: OptionValues): OptionValues {
	const before = { ...optionDefaults(layout), ...options };
	const after = { ...before, ...changes };
	const [was, is] = [suggested(layout, room, before), suggested(layout, room, after)];
	const left = Object.keys(is).filter((name) => !(name in changes) && before[name] === was[name]);
	return { ...changes, ...Object.fromEntries(left.map((name) => [name, is[name]!])) };
}

/** What suits the largest copies, however they are turned. */
function suggested(layout: Layout, { bounds, reach }: CopyRoom, options: OptionValues): OptionValues {
	const largest = Number(options.largest);
	const side = Number(options.turn) > 0 ? reach : undefined;
	const sized = (corner: Vec3, sign: number) => corner.map((at) => largest * (side === undefined ? at : sign * side)) as unknown as Vec3;
	return layout.suggest({ min: sized(bounds.min, -1), max: sized(bounds.max, 1) }, options);
}

/** Checks the options and places all copies. `reaches`: of each source, from its origin to its farthest point, metres. */
export async function layOut(
	layout: Layout,
	targets: readonly Mesh[],
	reaches: readonly number[],
	options: OptionValues,
	progress: Progress = {},
): Promise<Outcome<Copies>> {
	const problem = optionProblem(layout, options);
	if (problem) return bad(problem);
	const all = { ...optionDefaults(layout), ...options };
	if (Number(all.smallest) > Number(all.largest)) return bad("The smallest size is larger than the largest.");
	const { scaleOf, sourceOf } = variety(reaches.length, all);
	const places = await layout.place({ targets, reachOf: (n) => reaches[sourceOf(n)]! * scaleOf(n) }, all, progress);
	if (!places.ok) return places;
	if (places.value.count > MOST_COPIES)
		return bad(`These are ${places.value.count.toLocaleString("en")} copies; up to ${MOST_COPIES.toLocaleString("en")} can be made.`);
	return good(vary(places.value, reaches.length, all));
}
