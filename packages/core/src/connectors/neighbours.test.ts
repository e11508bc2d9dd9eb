import fc from "fast-check";
import { type Vec3, vec3 } from "../maths";
import { addArray, addConnector, connectorOf, setBody, setSettings } from "../shot";
import { runShot, shape, shotOf } from "../testing";
import { nearestPairs, neighbourPairs } from "./neighbours";

const grid = (columns: number, rows: number): Vec3[] =>
	Array.from({ length: columns * rows }, (_, n): Vec3 => [n % columns, Math.floor(n / columns), 0]);

test("neighbours in a grid are those along its lines; in a row each has the next", () => {
	expect(neighbourPairs(grid(3, 3))).toHaveLength(12);
	for (const [m, n] of neighbourPairs(grid(4, 3))) expect([1, 4]).toContain(n - m);
	expect(neighbourPairs(grid(5, 1))).toEqual([
		[0, 1],
		[1, 2],
		[2, 3],
		[3, 4],
	]);
	expect(nearestPairs(grid(2, 1))).toEqual([[0, 1]]);
	expect([neighbourPairs([]), neighbourPairs([vec3.ZERO])]).toEqual([[], []]);
});

test("two heaps that stand apart are not tied to each other", () => {
	const far = [...grid(3, 2), ...grid(3, 2).map((place): Vec3 => vec3.add(place, [20, 0, 0]))];
	const pairs = neighbourPairs(far);
	expect(pairs).toHaveLength(2 * 7);
	for (const [m, n] of pairs) expect(m < 6).toBe(n < 6);
});

test("of any places, those that are each other's nearest are neighbours, and none twice", () => {
	const place = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -1, max: 1, noNaN: true }))) as unknown as fc.Arbitrary<Vec3>;
	fc.assert(
		fc.property(fc.array(place, { minLength: 2, maxLength: 40 }), (places) => {
			const pairs = neighbourPairs(places).map(([m, n]) => `${m} ${n}`);
			expect(new Set(pairs).size).toBe(pairs.length);
			const apart = (m: number, n: number) => vec3.length(vec3.subtract(places[m]!, places[n]!));
			const [shortest] = nearestPairs(places).sort(([a, b], [c, d]) => apart(a, b) - apart(c, d));
			if (apart(...shortest!) > 1e-9) expect(pairs).toContain(shortest!.join(" "));
		}),
	);
});

test("pins between neighbours make a sheet of tiles that hangs together", async () => {
	const run = await runShot(
		shotOf(
			shape("tile", "box", { width: 0.2, height: 0.2, depth: 0.03 }, [0, 4, 5]),
			addArray({
				id: "sheet",
				name: "sheet",
				source: {
					kind: "array",
					sources: ["tile"],
					layout: "grid",
					options: { columns: 4, layers: 3, rows: 1, stepX: 0.21, stepY: 0.21, stepZ: 1 },
				},
				translation: [0, 3, 0],
			}),
			setBody(["sheet"], { kind: "active" }),
			addConnector("pins", connectorOf("pin", { options: { between: "neighbours", on: "sheet/*", collide: "no" } })),
			addConnector("hook", connectorOf("pin", { a: "sheet:0", from: [-0.3, 3, 0], to: [-0.3, 3, 0] })),
			setSettings({ lastFrame: 48 }),
		),
	);
	const { joints } = run.scene;
	expect(joints.filter(({ connector }) => connector === "pins")).toHaveLength(4 * 2 + 3 * 3);
	// From tile to tile it is as far as it was, to a tenth.
	for (const { a, b } of joints.filter(({ connector }) => connector === "pins")) {
		const [one, other] = [run.at(run.scene.ids[a]!, 48), run.at(run.scene.ids[b]!, 48)];
		expect(vec3.length(vec3.subtract(one, other))).toBeLessThan(0.21 * 1.1);
	}
	expect(Math.min(...run.scene.ids.filter((id) => id.startsWith("sheet")).map((id) => run.at(id, 48)[1]))).toBeGreaterThan(1.5);
});
