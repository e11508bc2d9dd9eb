import { bad, good } from "../common";
import { atan2, compose, fromAxisAngle, fromTo, hangingLine, type Quat, radians, type Vec3, vec3 } from "../maths";
import { boundsSize } from "../mesh";
import { formatQuantity } from "../shot";
import { angleSpec, CLEAR, countSpec, lengthSpec } from "./specs";
import { type Layout, makePlaces } from "./types";

const AXES: Readonly<Record<string, Vec3>> = { x: [1, 0, 0], height: [0, 1, 0], z: [0, 0, 1] };
const UP: Vec3 = [0, 1, 0];

/** Copies in a line that sags by its weight from the array's origin to its other end. */
export const hanging: Layout = {
	id: "hanging",
	label: "Hanging",
	help: "From one end to another, and sagging between: garlands, ropes, chains",
	options: {
		count: countSpec("Copies", 20, "How many there are between the ends"),
		pitch: lengthSpec("Step", 0.1, "From each copy to the next, along the line", { least: 1e-4 }),
		endX: lengthSpec("Other end x", 1, "From the first end", { least: -10_000 }),
		endY: lengthSpec("Other end up", 0, "From the first end", { least: -10_000 }),
		endZ: lengthSpec("Other end z", 0, "From the first end", { least: -10_000 }),
		lies: {
			kind: "choice",
			label: "Along it lies",
			default: "height",
			choices: [
				{ id: "x", label: "x", help: "The copies' own x axis goes along the line" },
				{ id: "height", label: "Height", help: "Their height does" },
				{ id: "z", label: "z", help: "Their own z axis does" },
			],
			help: "Which of the copies' axes goes along the line",
		},
		twist: angleSpec("Twist", 0, "Of each copy about the line against the one before: 90° for links of a chain"),
	},
	suggest: (box, { count, lies }) => {
		const size = boundsSize(box);
		const pitch = Number((size[["x", "height", "z"].indexOf(String(lies))]! * CLEAR).toPrecision(3));
		return { pitch, endX: Number((0.8 * pitch * Number(count)).toPrecision(3)) };
	},
	place(_, options) {
		const { count, pitch, endX, endY, endZ, twist } = options as Record<string, number>;
		const span: Vec3 = [endX!, endY!, endZ!];
		const length = count! * pitch!;
		const line = hangingLine(span, length);
		if (!line)
			return bad(
				`Hanging: ${count!.toLocaleString("en")} copies reach ${formatQuantity(length, "length")}, and the ends are ${formatQuantity(vec3.length(span), "length")} apart. Make more, or bring the ends nearer.`,
			);
		const axis = AXES[String(options.lies)]!;
		const upright = fromTo(axis, UP);
		// The line is in one upright plane: copies lean about its normal alone, so that none is twisted against its neighbours.
		const flat = Math.sqrt(endX! ** 2 + endZ! ** 2);
		const normal: Vec3 = flat > 0 ? [-endZ! / flat, 0, endX! / flat] : [0, 0, 1];
		const heading = fromAxisAngle(UP, atan2(normal[0], normal[2]));
		const places = makePlaces();
		for (let i = 0; i < count!; i++) {
			const { at, way } = line((i + 0.5) * pitch!);
			const lean = atan2(vec3.dot(way, vec3.cross(normal, UP)), way[1]);
			const along: Quat = compose(compose(fromAxisAngle(normal, lean), heading), upright);
			places.add(at, compose(along, fromAxisAngle(axis, radians(twist! * i))));
		}
		return good(places.done());
	},
};
