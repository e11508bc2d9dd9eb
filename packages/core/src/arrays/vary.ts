import { compose, evenTurn, IDENTITY, type Quat, random, slerp } from "../maths";
import { type OptionSpec, seedSpec } from "../shot";
import type { Copies, Places } from "./types";

/** What every layout can do to its copies, so that they do not look alike. */
export const VARY_OPTIONS: Readonly<Record<string, OptionSpec>> = {
	jitter: {
		kind: "number",
		label: "Jitter",
		unit: "m",
		default: 0,
		least: 0,
		most: 1000,
		help: "How far each may stand from its place, at random",
	},
	turn: {
		kind: "number",
		label: "Random turn",
		unit: "",
		default: 0,
		least: 0,
		most: 1,
		percent: true,
		help: "0 % leaves them as they are, 100 % turns each any way",
	},
	smallest: {
		kind: "number",
		label: "Smallest",
		unit: "×",
		default: 1,
		least: 0.01,
		most: 100,
		help: "Random size, as a multiple of the source",
	},
	largest: {
		kind: "number",
		label: "Largest",
		unit: "×",
		default: 1,
		least: 0.01,
		most: 100,
		help: "Random size, as a multiple of the source",
	},
	mix: {
		kind: "choice",
		label: "Sources",
		help: "Which of several sources stands where",
		default: "random",
		choices: [
			{ id: "random", label: "At random", help: "Any source at any place" },
			{ id: "turns", label: "In turn", help: "One after the other" },
		],
	},
	seed: seedSpec("arrangement"),
};

/** Channels of randomness that no layout uses. */
const Channel = { X: 16, Y: 17, Z: 18, TurnA: 19, TurnB: 20, TurnC: 21, Size: 22, Source: 23 } as const;

/** The size of the n-th copy as a multiple of its source's, and which source that is. */
export function variety(sources: number, options: Readonly<Record<string, unknown>>) {
	const { smallest, largest, seed } = options as Record<string, number>;
	return {
		scaleOf: (n: number): number => smallest! + (largest! - smallest!) * random(seed!, n, Channel.Size),
		sourceOf: (n: number): number =>
			options.mix === "turns" ? n % sources : Math.min(sources - 1, Math.floor(sources * random(seed!, n, Channel.Source))),
	};
}

/** Moves, turns and sizes every copy in its own way, and says which source it is of. */
export function vary(places: Places, sources: number, options: Readonly<Record<string, unknown>>): Copies {
	const { jitter, turn, seed } = options as Record<string, number>;
	const { scaleOf, sourceOf } = variety(sources, options);
	const { count } = places;
	const position = places.position.slice();
	const rotation = places.rotation.slice();
	const source = new Uint16Array(count);
	const scale = new Float64Array(count);
	for (let i = 0; i < count; i++) {
		const draw = (channel: number) => random(seed!, i, channel);
		if (jitter! > 0) for (let axis = 0; axis < 3; axis++) position[3 * i + axis]! += jitter! * (2 * draw(Channel.X + axis) - 1);
		if (turn! > 0) {
			const own = Array.from(rotation.subarray(4 * i, 4 * i + 4)) as unknown as Quat;
			const any = slerp(IDENTITY, evenTurn(draw(Channel.TurnA), draw(Channel.TurnB), draw(Channel.TurnC)), turn!);
			rotation.set(compose(own, any), 4 * i);
		}
		scale[i] = scaleOf(i);
		source[i] = sourceOf(i);
	}
	return { count, position, rotation, source, scale };
}
