import { bad, good } from "../common";
import { random } from "../maths";
import { assemble } from "./assemble";
import { carveCells } from "./carve";
import type { Cell } from "./cells";
import { defineMethod } from "./options";
import { makePrisms, thinnestFace } from "./prisms";
import { breakSeed, gapSpec, shareSpec } from "./specs";

const MOST_CELLS = 20_000;
const number = (label: string, fallback: number, help: string) =>
	({ kind: "number", label, unit: "", default: fallback, least: 1, most: 2000, whole: true, help }) as const;

export interface PanelCellsOptions {
	readonly columns: number;
	readonly rows: number;
	/** Share of a cell, 0 to 1. */
	readonly jitter: number;
	/** Metres. */
	readonly gap: number;
	readonly seed: number;
}

/** Rows and columns through the thinnest extent: panes of a window, flags of a floor. Corners wander, sides stay straight. */
export const panelCells = defineMethod<PanelCellsOptions>({
	id: "cells",
	label: "Rows and columns",
	help: "A net of cells over a panel, regular or uneven: panes, flags, tiles.",
	options: {
		columns: number("Columns", 6, "Cells side by side"),
		rows: number("Rows", 4, "Cells above each other"),
		jitter: shareSpec("Jitter", 0.3, "How far corners wander, as a share of a cell"),
		gap: gapSpec,
		seed: breakSeed,
	},
	estimate: (triangles, { rows = 4, columns = 6 }) => 0.05 + Number(rows) * Number(columns) * (1e-3 + Math.sqrt(triangles) * 1e-5),
	run: async ({ solids, mesh, volume }, { columns, rows, jitter, gap, seed }, progress) => {
		if (columns * rows > MOST_CELLS)
			return bad(
				`Rows and columns: ${(columns * rows).toLocaleString("en")} cells were asked for; the most is ${MOST_CELLS.toLocaleString("en")}.`,
			);
		const face = thinnestFace(mesh);
		const [width, height] = [(face.max[0] - face.min[0]) / columns, (face.max[1] - face.min[1]) / rows];
		if (gap >= Math.min(width, height))
			return bad(`Rows and columns: a gap of ${gap * 1000} mm leaves nothing of cells ${Math.min(width, height) * 1000} mm wide.`);
		// Corners on the rim only slide along it; half a share each way keeps every cell convex.
		const corner = (i: number, j: number): readonly [number, number] => {
			const key = i * 4096 + j;
			const inU = i > 0 && i < columns ? 0.5 * jitter * (random(seed, key, 0) - 0.5) : 0;
			const inV = j > 0 && j < rows ? 0.5 * jitter * (random(seed, key, 1) - 0.5) : 0;
			return [face.min[0] + width * (i + inU), face.min[1] + height * (j + inV)];
		};
		// Each inner edge is a cut of its own: its tag counts upright edges first, then level ones.
		const upright = (i: number, j: number) => i + (columns + 1) * j;
		const level = (i: number, j: number) => (columns + 1) * rows + i + columns * j;
		const prism = makePrisms(mesh, face);
		const cells: Cell[] = [];
		for (let j = 0; j < rows; j++)
			for (let i = 0; i < columns; i++) {
				const [a, b, c, d] = [corner(i, j), corner(i + 1, j), corner(i + 1, j + 1), corner(i, j + 1)];
				const side = ([pu, pv]: readonly [number, number], [qu, qv]: readonly [number, number], tag: number) => {
					const length = Math.sqrt((qu - pu) ** 2 + (qv - pv) ** 2);
					const n = [(qv - pv) / length, -(qu - pu) / length, 0] as const;
					return { n, d: n[0] * pu + n[1] * pv - gap / 2, tag };
				};
				const sides = [
					...(j > 0 ? [side(a, b, level(i, j))] : []),
					...(i < columns - 1 ? [side(b, c, upright(i + 1, j))] : []),
					...(j < rows - 1 ? [side(c, d, level(i, j + 1))] : []),
					...(i > 0 ? [side(d, a, upright(i, j))] : []),
				];
				const cell = prism(cells.length, sides);
				if (cell) cells.push(cell);
			}
		return good(assemble(await carveCells(solids, mesh, cells, progress), volume, "surface"));
	},
});
