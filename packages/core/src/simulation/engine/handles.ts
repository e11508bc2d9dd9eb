/** Handles of the library are (index, generation) packed into the bits of a double. */
const BITS = new DataView(new ArrayBuffer(8));

function indexOfHandle(handle: number): number {
	BITS.setFloat64(0, handle, true);
	return BITS.getUint32(0, true);
}

/** For sorting: in the order in which things were made. */
export const byIndex = (one: number, other: number): number => indexOfHandle(one) - indexOfHandle(other);
