import { bad, good } from "../common";
import { boundsSize } from "../mesh";
import { CLEAR, countSpec, lengthSpec, MOST_COPIES } from "./specs";
import { type Layout, makePlaces } from "./types";

/** Rows, columns and layers; the middle of the lowest layer is the array's origin. */
export const grid: Layout = {
	id: "grid",
	label: "Grid",
	help: "Rows, columns and layers",
	options: {
		columns: countSpec("Columns", 5, "Along the array's x axis"),
		layers: countSpec("Layers", 1, "On top of one another"),
		rows: countSpec("Rows", 5, "Along the array's z axis"),
		stepX: lengthSpec("Step x", 1, "From middle to middle"),
		stepY: lengthSpec("Step up", 1, "From middle to middle"),
		stepZ: lengthSpec("Step z", 1, "From middle to middle"),
	},
	suggest: (box) => {
		const [x, y, z] = boundsSize(box).map((side) => Number((side * CLEAR).toPrecision(3))) as [number, number, number];
		return { stepX: x, stepY: y, stepZ: z };
	},
	place(_, options) {
		const { columns, layers, rows, stepX, stepY, stepZ } = options as Record<string, number>;
		const count = columns! * layers! * rows!;
		if (count > MOST_COPIES)
			return bad(
				`${columns} × ${layers} × ${rows} are ${count.toLocaleString("en")} copies; up to ${MOST_COPIES.toLocaleString("en")} can be made.`,
			);
		const places = makePlaces();
		for (let j = 0; j < layers!; j++)
			for (let k = 0; k < rows!; k++)
				for (let i = 0; i < columns!; i++) places.add([(i - (columns! - 1) / 2) * stepX!, j * stepY!, (k - (rows! - 1) / 2) * stepZ!]);
		return good(places.done());
	},
};
