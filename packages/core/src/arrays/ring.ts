import { good } from "../common";
import { cos, fromAxisAngle, IDENTITY, radians, sin } from "../maths";
import { boundsSize } from "../mesh";
import { angleSpec, countSpec, lengthSpec } from "./specs";
import { type Layout, makePlaces } from "./types";

/** Copies around the array's upright axis. */
export const ring: Layout = {
	id: "ring",
	label: "Ring",
	help: "Around an upright axis, whole or in part, level or as a spiral",
	options: {
		count: countSpec("Copies", 12, "How many stand around"),
		radius: lengthSpec("Radius", 1, "Of the circle that their middles stand on", { least: 0.0005 }),
		arc: angleSpec("Arc", 360, "360° is the whole ring; more goes round again"),
		rise: lengthSpec("Rise", 0, "Height gained over the arc", { least: -10_000 }),
		facing: {
			kind: "choice",
			label: "Facing",
			help: "Which way the copies look",
			default: "along",
			choices: [
				{ id: "along", label: "Turning", help: "Each is turned along the ring" },
				{ id: "same", label: "All one way", help: "None is turned" },
			],
		},
	},
	suggest: (box, { count, arc }) => {
		const [x, , z] = boundsSize(box);
		const around = (2 * Math.PI * Math.min(360, Math.max(1, Math.abs(Number(arc))))) / 360;
		return { radius: Number(((Math.max(x, z) * Number(count) * 1.15) / around).toPrecision(3)) };
	},
	place(_, options) {
		const { count, radius, arc, rise } = options as Record<string, number>;
		const whole = Math.abs(Math.abs(arc!) - 360) < 1e-9 && rise === 0;
		const steps = Math.max(1, whole ? count! : count! - 1);
		const places = makePlaces();
		for (let i = 0; i < count!; i++) {
			const a = (radians(arc!) * i) / steps;
			places.add(
				[radius! * cos(a), (rise! * i) / steps, -radius! * sin(a)],
				options.facing === "along" ? fromAxisAngle([0, 1, 0], a) : IDENTITY,
			);
		}
		return good(places.done());
	},
};
