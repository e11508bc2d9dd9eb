import type { Quat, Vec3 } from "../maths";
import type { Described, OptionValues } from "../shot";
import { UNITS, type Unit } from "./units";

/** For files that cannot say themselves which way is up and what a number means. */
export const SPACE_OPTIONS: Described["options"] = {
	up: {
		kind: "choice",
		label: "Up",
		help: "The axis that points up in the program that reads it",
		default: "y",
		choices: [
			{ id: "y", label: "Y", help: "As here" },
			{ id: "z", label: "Z", help: "x stays, what comes towards you here goes along −y" },
		],
	},
	unit: {
		kind: "choice",
		label: "Unit",
		help: "What a length of 1 is",
		default: "m",
		choices: [
			{ id: "m", label: "m", help: "Metres" },
			{ id: "cm", label: "cm", help: "Centimetres" },
			{ id: "mm", label: "mm", help: "Millimetres" },
		],
	},
};

/** How places and turns of the world are written. */
export interface Space {
	readonly up: string;
	readonly unit: Unit;
	readonly place: (place: Vec3) => Vec3;
	/** A quaternion, x y z w. */
	readonly turn: (turn: Quat) => Quat;
}

/** Z goes up by a quarter turn about x, so nothing is mirrored. */
export function spaceOf({ options }: { readonly options: OptionValues }): Space {
	const up = String(options.up ?? "y");
	const unit = (options.unit ?? "m") as Unit;
	const factor = 1 / UNITS[unit];
	const stands = up === "z";
	return {
		up,
		unit,
		place: ([x, y, z]) => (stands ? [x * factor, -z * factor, y * factor] : [x * factor, y * factor, z * factor]),
		// The axis of a turn goes the way that places go.
		turn: ([x, y, z, w]) => (stands ? [x, -z, y, w] : [x, y, z, w]),
	};
}
