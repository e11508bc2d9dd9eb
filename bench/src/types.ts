/** One line of a table: it runs in a process of its own, so that its memory is its own. */
export interface Row {
	readonly name: string;
	/** Figures with their unit in the key, such as `"ms"` or `"pieces/s"`. */
	readonly run: () => Promise<Readonly<Record<string, number>>>;
}

export interface Bench {
	readonly id: string;
	readonly title: string;
	readonly rows: readonly Row[];
}

export const milliseconds = async (work: () => Promise<unknown> | unknown): Promise<number> => {
	const begin = performance.now();
	await work();
	return performance.now() - begin;
};

/** The middle of several timings, milliseconds. */
export async function median(times: number, work: () => Promise<unknown> | unknown): Promise<number> {
	const all: number[] = [];
	for (let i = 0; i < times; i++) all.push(await milliseconds(work));
	return all.sort((a, b) => a - b)[Math.floor(times / 2)]!;
}

const none = async (): Promise<never> => {
	throw new Error("there are no assets here");
};
export const NO_ASSETS = { loadAsset: none, loadPicture: none };
