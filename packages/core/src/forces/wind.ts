import { defineForce } from "./define";
import { alongSpec, axisOf, strengthSpec } from "./specs";

/** kg/m³, dry air at 20 °C. */
const AIR = 1.204;

/**
 * Moving air: the drag ½ ρ c A u² against the body's motion through it. A is the surface over four, the mean shadow of
 * a convex body (Cauchy 1841). The step is taken implicitly, so that light things are never blown past the wind's speed.
 */
export const wind = defineForce({
	id: "wind",
	label: "Wind",
	help: "Moving air that drags along by area; at no speed it is still air",
	alwaysActs: true,
	options: {
		strength: { ...strengthSpec("m/s", 8), label: "Speed", help: "Of the air; can be keyed, negative turns it round" },
		along: alongSpec("x", "Which of its own axes it blows along; turn the wind to aim it"),
		drag: { kind: "number", label: "Drag", unit: "", default: 1, least: 0, most: 1000, help: "Drag coefficient: ball 0.5, slab 1.1" },
		density: {
			kind: "number",
			label: "Density",
			unit: "kg/m³",
			default: AIR,
			least: 0,
			most: 20_000,
			help: "Of what flows: air 1.2, sea water 1025",
		},
	},
	field: ({ along, drag, density }) => {
		const axis = axisOf(along);
		const factor = (0.5 * Number(density) * Number(drag)) / 4;
		return (out, at, strength) => {
			const u = [-at.vx, -at.vy, -at.vz];
			u[axis]! += strength;
			const speed = Math.sqrt(u[0]! ** 2 + u[1]! ** 2 + u[2]! ** 2);
			const rate = (factor * at.area * speed) / at.mass;
			const gain = rate / (1 + rate * at.dt);
			for (let k = 0; k < 3; k++) out[k] = gain * u[k]!;
		};
	},
});
