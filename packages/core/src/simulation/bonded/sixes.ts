/** Numbers of movement, six a body: those of the named rows of an array, one after the other, and back. */
export function gather(from: Float64Array, rows: ArrayLike<number>, into: Float64Array = new Float64Array(6 * rows.length)): Float64Array {
	for (let z = 0; z < rows.length; z++) for (let d = 0; d < 6; d++) into[6 * z + d] = from[6 * rows[z]! + d]!;
	return into;
}

export function spread(few: Float64Array, rows: ArrayLike<number>, into: Float64Array): void {
	for (let z = 0; z < rows.length; z++) for (let d = 0; d < 6; d++) into[6 * rows[z]! + d] = few[6 * z + d]!;
}
