import { defineForce } from "./define";
import { bySpec, strengthSpec } from "./specs";

const AXES: Readonly<Record<string, number>> = { x: 0, up: 1, z: 2 };

/** The same push everywhere, along one axis of its own: lifting, pulling down, drifting. */
export const push = defineForce({
	id: "push",
	label: "Push",
	help: "The same way everywhere: lift, drift, a tilted gravity",
	options: {
		strength: strengthSpec("m/s²", 12),
		by: bySpec,
		along: {
			kind: "choice",
			label: "Along",
			default: "up",
			choices: [
				{ id: "x", label: "x", help: "Its own x axis" },
				{ id: "up", label: "Up", help: "Its own upright axis" },
				{ id: "z", label: "z", help: "Its own z axis" },
			],
			help: "Which of its own axes it acts along; turn the force to aim it",
		},
	},
	field: ({ along }) => {
		const axis = AXES[String(along)] ?? 1;
		return (out, _, strength) => {
			out[axis] = strength;
		};
	},
});
