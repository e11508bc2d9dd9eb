import type { Vec3 } from "../maths";
import { hollowOf } from "../mesh";
import { buildShape, shapeById } from "../shapes";
import { pour } from "./pour";

const hollow = (shape: string, sizes: Record<string, number>) => hollowOf(buildShape(shapeById(shape)!, sizes))!;
const CUP = { radius: 0.4, foot: 0.4, height: 0.8, wall: 0.04, segments: 48 };
/** Large and small in turn. */
const radiusOf = (n: number): number => [0.05, 0.07, 0.03][n % 3]!;

/** How deep the worst pair is in each other, as a share of the smaller ball. */
function worst(places: readonly Vec3[]): number {
	let most = 0;
	for (let i = 0; i < places.length; i++)
		for (let j = 0; j < i; j++) {
			const [a, b, r, s] = [places[i]!, places[j]!, radiusOf(i), radiusOf(j)];
			const square = (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2;
			if (square < (r + s) ** 2) most = Math.max(most, (r + s - Math.sqrt(square)) / Math.min(r, s));
		}
	return most;
}

/** The farthest that any ball reaches from the upright axis. */
const widest = (places: readonly Vec3[]) => Math.max(...places.map(([x, , z], n) => Math.hypot(x, z) + radiusOf(n)));

test("balls that are poured into a cup do not reach into each other, nor into it, and fill it about as loosely as a heap", async () => {
	const room = hollow("cup", CUP);
	const places = await pour(room, radiusOf, 2000, 3, false);
	expect(worst(places)).toBeLessThan(1e-9);
	expect(widest(places)).toBeLessThan(0.36);
	expect(Math.min(...places.map(([, y], n) => y - radiusOf(n)))).toBeGreaterThan(-0.36);
	expect(Math.max(...places.map(([, y], n) => y + radiusOf(n)))).toBeLessThan(0.4);
	const filled = places.reduce((sum, _, n) => sum + (4 / 3) * Math.PI * radiusOf(n) ** 3, 0);
	expect(filled / room.volume).toBeGreaterThan(0.37);
	expect(filled / room.volume).toBeLessThan(0.64);
	// The first lie where the last would have to lie on them.
	expect(Math.max(...places.slice(0, 20).map(([, y]) => y))).toBeLessThan(0);
	expect(await pour(room, radiusOf, 2000, 3, false)).toEqual(places);
	expect(await pour(room, radiusOf, 100, 3, false)).toEqual(places.slice(0, 100));
	expect(await pour(room, radiusOf, 100, 4, false)).not.toEqual(places.slice(0, 100));
});

test("what finds no place under the brim stands above the opening and nowhere else", async () => {
	const room = hollow("cup", CUP);
	const over = await pour(room, radiusOf, 600, 3, true);
	expect(over).toHaveLength(600);
	expect(worst(over)).toBeLessThan(1e-9);
	expect(widest(over)).toBeLessThan(0.36);
	// As loose as below: about as tall as their volume asks for.
	const volume = over.reduce((sum, _, n) => sum + (4 / 3) * Math.PI * radiusOf(n) ** 3, 0);
	expect(Math.max(...over.map(([, y]) => y))).toBeLessThan(volume / 0.42 / (Math.PI * 0.36 ** 2));
});

test("in a bowl balls lie on its slope, and a ball that is too large for the opening finds no place", async () => {
	const bowl = { radius: 0.5, wall: 0.03, segments: 48 };
	const room = hollow("bowl", bowl);
	const places = await pour(room, () => 0.05, 60, 1, false);
	expect(places).toHaveLength(60);
	const [lowest] = places;
	// The first rolls nearly to the middle.
	expect(Math.hypot(lowest![0], lowest![2])).toBeLessThan(0.2);
	// None is nearer to the bowl's inside, a ball of 0.47 m, than its radius.
	for (const [x, y, z] of places) expect(Math.hypot(x, y - 0.25, z)).toBeLessThan(0.47 - 0.05);
	expect(await pour(room, () => 0.6, 3, 1, true)).toEqual([]);
});

test("pouring says how far it is, and ends where it is cancelled", async () => {
	const room = hollow("cup", CUP);
	const told: number[] = [];
	await pour(room, () => 0.05, 200, 1, true, { onProgress: (fraction) => void told.push(fraction) });
	expect(told.length).toBeGreaterThan(5);
	expect(told).toEqual([...told].sort((a, b) => a - b));
	expect(told.at(-1)).toBeLessThan(1);
	const signal = { aborted: false };
	let last = 0;
	const stopped = pour(room, () => 0.05, 200, 1, true, {
		signal,
		onProgress: (fraction) => {
			last = fraction;
			signal.aborted = fraction > 0.4;
		},
	});
	await expect(stopped).rejects.toThrow("cancelled");
	expect(last).toBeLessThan(0.6);
});
