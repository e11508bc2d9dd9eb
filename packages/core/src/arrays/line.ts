import { good } from "../common";
import { compose, fromEuler, IDENTITY, type Quat, radians, rotate, type Vec3, vec3 } from "../maths";
import { boundsSize } from "../mesh";
import { angleSpec, CLEAR, countSpec, lengthSpec } from "./specs";
import { type Layout, makePlaces } from "./types";

/** The same move again and again: each copy stands to the one before it as that to the one before. */
export const line: Layout = {
	id: "line",
	label: "Line",
	help: "One move, repeated: rows, stairs, spirals, chains",
	options: {
		count: countSpec("Copies", 8, "How many, the first included"),
		stepX: lengthSpec("Step x", 1, "Of each copy from the one before, along its own x axis", { least: -10_000 }),
		stepY: lengthSpec("Step up", 0, "Of each copy from the one before, along its own upright", { least: -10_000 }),
		stepZ: lengthSpec("Step z", 0, "Of each copy from the one before, along its own z axis", { least: -10_000 }),
		turnX: angleSpec("Turn x", 0, "Of each copy against the one before"),
		turnY: angleSpec("Turn upright", 0, "Of each copy against the one before"),
		turnZ: angleSpec("Turn z", 0, "Of each copy against the one before"),
	},
	suggest: (box) => ({ stepX: Number((boundsSize(box)[0] * CLEAR).toPrecision(3)) }),
	place(_, options) {
		const { count, stepX, stepY, stepZ, turnX, turnY, turnZ } = options as Record<string, number>;
		const step: Vec3 = [stepX!, stepY!, stepZ!];
		const turn = fromEuler([radians(turnX!), radians(turnY!), radians(turnZ!)]);
		const places = makePlaces();
		let at: Vec3 = [0, 0, 0];
		let rotation: Quat = IDENTITY;
		for (let i = 0; i < count!; i++) {
			places.add(at, rotation);
			at = vec3.add(at, rotate(rotation, step));
			rotation = compose(rotation, turn);
		}
		return good(places.done());
	},
};
