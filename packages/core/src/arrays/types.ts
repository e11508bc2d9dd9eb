import type { Outcome, Progress } from "../common";
import type { Vec3 } from "../maths";
import type { Bounds, Mesh } from "../mesh";
import type { Described, OptionValues } from "../shot";

/** What room one copy takes: that of the largest source. */
export interface CopyRoom {
	/** The box that holds any of the sources, about their origin, metres. */
	readonly bounds: Bounds;
	/** From the origin to the farthest point of any of them, metres: the room that one takes however it is turned. */
	readonly reach: number;
}

/** Where the copies of an array stand, in the array's frame. */
export interface Places {
	readonly count: number;
	/** 3 per copy, metres. */
	readonly position: Float64Array;
	/** 4 per copy, unit quaternion x, y, z, w. */
	readonly rotation: Float64Array;
}

export interface LayoutInput {
	/** The objects that an option names, in the array's frame. */
	readonly targets: readonly Mesh[];
	/** From the origin of the n-th copy to its farthest point, metres, however it is turned. */
	readonly reachOf: (n: number) => number;
}

/** A way to lay out copies. */
export interface Layout extends Described {
	readonly id: string;
	readonly help: string;
	/** What its copies begin with, where that is not the default. */
	readonly begin?: OptionValues;
	/** Settings that suit copies of which each takes this box about its origin. `options` are complete. */
	readonly suggest: (box: Bounds, options: OptionValues) => OptionValues;
	/** `options` are complete and within their limits: `layOut` has seen to it. */
	readonly place: (input: LayoutInput, options: OptionValues, progress: Progress) => Outcome<Places> | Promise<Outcome<Places>>;
}

/** What an array is: places, and which source with what size stands at each. */
export interface Copies extends Places {
	/** 1 per copy: index into the sources. */
	readonly source: Uint16Array;
	/** 1 per copy: its size as a multiple of the source's. */
	readonly scale: Float64Array;
}

/** Collects places one by one. */
export function makePlaces(): { add: (at: Vec3, turn?: readonly [number, number, number, number]) => void; done: () => Places } {
	const position: number[] = [];
	const rotation: number[] = [];
	return {
		add(at, turn = [0, 0, 0, 1]) {
			position.push(...at);
			rotation.push(...turn);
		},
		done: () => ({ count: position.length / 3, position: Float64Array.from(position), rotation: Float64Array.from(rotation) }),
	};
}
