/** A mesh file on its way from the yard to the new shot that is being opened for it. */
let waiting: File | undefined;

export const handOver = (file: File): void => {
	waiting = file;
};

export function takeOver(): File | undefined {
	const file = waiting;
	waiting = undefined;
	return file;
}
