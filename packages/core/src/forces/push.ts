import { defineForce } from "./define";
import { alongSpec, axisOf, bySpec, strengthSpec } from "./specs";

/** The same push everywhere, along one axis of its own: lifting, pulling down, drifting. */
export const push = defineForce({
	id: "push",
	label: "Push",
	help: "The same way everywhere: lift, drift, a tilted gravity",
	options: {
		strength: strengthSpec("m/s²", 12),
		by: bySpec,
		along: alongSpec("up", "Which of its own axes it acts along; turn the force to aim it"),
	},
	field: ({ along }) => {
		const axis = axisOf(along);
		return (out, _, strength) => {
			out[axis] = strength;
		};
	},
});
