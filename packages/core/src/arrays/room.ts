import type { Vec3 } from "../maths";

/** Remembers places and tells whether a new one keeps its distance: a hash grid with cells of that distance. */
export function keepRoom(distance: number): (at: Vec3) => boolean {
	if (distance <= 0) return () => true;
	const cells = new Map<string, Vec3[]>();
	const least = distance * distance;
	return (at) => {
		const [i, j, k] = at.map((x) => Math.floor(x / distance)) as [number, number, number];
		for (let a = i - 1; a <= i + 1; a++)
			for (let b = j - 1; b <= j + 1; b++)
				for (let c = k - 1; c <= k + 1; c++)
					for (const [x, y, z] of cells.get(`${a},${b},${c}`) ?? [])
						if ((x - at[0]) ** 2 + (y - at[1]) ** 2 + (z - at[2]) ** 2 < least) return false;
		const key = `${i},${j},${k}`;
		const cell = cells.get(key);
		if (cell) cell.push(at);
		else cells.set(key, [at]);
		return true;
	};
}
