import { layOut, layoutById } from "@rubble/core/arrays";
import { buildShape, shapeById } from "@rubble/core/shapes";
import { type Bench, milliseconds, type Row } from "./types";

const CUP = { radius: 0.4, foot: 0.4, height: 0.8, wall: 0.04, segments: 48 };

/** Balls of three sizes, poured into a cup that about half of them fill. */
const row = (count: number): Row => ({
	name: `${count.toLocaleString("en")} balls`,
	run: async () => {
		const cup = buildShape(shapeById("cup")!, CUP);
		// Half of them in 0.3 m³ at 0.42 of the room.
		const radius = Math.cbrt((0.3 * 0.42 * 3) / (4 * Math.PI * (count / 2)));
		let places = 0;
		const pour = await milliseconds(async () => {
			const made = await layOut(layoutById("volume")!, [cup], [radius], {
				pattern: "poured",
				brim: "over",
				count,
				smallest: 0.8,
				largest: 1.2,
			});
			if (!made.ok) throw new Error(made.problems[0]!.message);
			places = made.value.count;
		});
		return { places, "pour ms": pour, "µs a ball": (1000 * pour) / places };
	},
});

export const pour: Bench = { id: "pour", title: "Copies poured into a cup", rows: [row(300), row(3_000), row(30_000)] };
