import { type BlockMatrix, blockAt, emptyBlockMatrix } from "../simulation/bonded/blockMatrix";

/** A wall of blocks, each joined to its neighbours by a spring along every axis and about it, held at its foot. */
export function blockWall(columns: number, rows: number): { matrix: BlockMatrix; centre: Float64Array } {
	const n = columns * rows;
	const at = (i: number): [number, number, number] => [i % columns, Math.floor(i / columns), 0];
	const springs: { a: number; b: number; face: [number, number, number] }[] = [];
	for (let i = 0; i < n; i++) {
		const [x, y] = at(i);
		if (x + 1 < columns) springs.push({ a: i, b: i + 1, face: [x + 0.5, y, 0] });
		springs.push({ a: i, b: y + 1 < rows ? i + columns : n, face: [x, y + 0.5, 0] });
	}
	const matrix = emptyBlockMatrix(
		n,
		springs.flatMap(({ a, b }) => [a, b]),
	);
	for (const { a, b, face } of springs)
		for (let d = 0; d < 6; d++) {
			// How either end's six numbers move the face along or about one axis.
			const by = (i: number): number[] => {
				const row = [0, 0, 0, 0, 0, 0];
				row[d] = 1;
				if (d < 3) {
					const [x, y, z] = face.map((value, k) => value - at(i)[k]!) as [number, number, number];
					row.splice(
						3,
						3,
						...([
							[0, z, -y],
							[-z, 0, x],
							[y, -x, 0],
						][d] as number[]),
					);
				}
				return row;
			};
			const stiff = d < 3 ? 1 : 0.02;
			const add = (block: Float64Array, to: number, one: number[], other: number[], sign: number) => {
				for (let r = 0; r < 6; r++) for (let c = 0; c < 6; c++) block[to + 6 * r + c]! += sign * stiff * one[r]! * other[c]!;
			};
			add(matrix.diagonal, 36 * a, by(a), by(a), 1);
			if (b === n) continue;
			add(matrix.diagonal, 36 * b, by(b), by(b), 1);
			add(matrix.block, blockAt(matrix, a, b), by(a), by(b), -1);
			add(matrix.block, blockAt(matrix, b, a), by(b), by(a), -1);
		}
	return { matrix, centre: Float64Array.from(Array.from({ length: n }, (_, i) => at(i)).flat()) };
}
