import fc from "fast-check";
import { fromEuler, principalAxes, rotate } from "../maths";
import { SHAPES, shapeDefaults } from "../shapes";
import { area, bounds, boundsSize, makeMesh, solid, topology, transformMesh, volume } from ".";

const build = (id: string, parameters: Record<string, number> = {}) => {
	const shape = SHAPES.find((other) => other.id === id)!;
	return shape.build({ ...shapeDefaults(shape), ...parameters }, {});
};

test("a box has the volume, surface and inertia of the formulas", () => {
	const mesh = build("box", { width: 2, height: 1, depth: 0.5 });
	const { volume: v, centroid, inertia } = solid(mesh);
	expect(v).toBeCloseTo(1, 12);
	expect(area(mesh)).toBeCloseTo(2 * (2 + 1 + 0.5), 6);
	expect(centroid.map((c) => Math.abs(c))).toEqual([0, 0, 0]);
	// I = m (b² + c²) / 12
	expect(inertia[0]).toBeCloseTo((1 + 0.25) / 12, 10);
	expect(inertia[1]).toBeCloseTo((4 + 0.25) / 12, 10);
	expect(inertia[2]).toBeCloseTo((4 + 1) / 12, 10);
});

test("a fine ball and a fine cylinder come near their formulas", () => {
	const ball = solid(build("ball", { radius: 0.5, detail: 6 }));
	expect(ball.volume / ((4 / 3) * Math.PI * 0.125)).toBeCloseTo(1, 3);
	expect(ball.inertia[0] / ball.volume / (0.4 * 0.25)).toBeCloseTo(1, 3);
	const drum = solid(build("cylinder", { radius: 0.3, height: 2, segments: 256 }));
	expect(drum.volume / (Math.PI * 0.09 * 2)).toBeCloseTo(1, 3);
	expect(drum.inertia[1] / drum.volume / (0.09 / 2)).toBeCloseTo(1, 3);
	expect(drum.inertia[0] / drum.volume / ((3 * 0.09 + 4) / 12)).toBeCloseTo(1, 3);
});

test("every primitive is closed, looks outwards and has one shell", () => {
	for (const shape of SHAPES.filter((other) => !other.endless)) {
		const mesh = shape.build(shapeDefaults(shape), { text: "O" });
		const facts = topology(mesh);
		expect([shape.id, facts.closed, facts.shells, volume(mesh) > 0]).toEqual([shape.id, true, 1, true]);
	}
});

test("holes that go through a shape are counted: none, one of a ring, two of a B; of several shells together", () => {
	const written = SHAPES.find(({ id }) => id === "letters")!;
	const letters = (text: string) => written.build(shapeDefaults(written), { text });
	expect(topology(build("box")).genus).toBe(0);
	expect(topology(build("ball")).genus).toBe(0);
	expect(topology(build("torus")).genus).toBe(1);
	expect(["I", "O", "B", "BOX"].map((text) => topology(letters(text)).genus)).toEqual([0, 1, 2, 3]);
	expect(topology(letters("BOX")).shells).toBe(3);
	// What is open has inside and outside in one: nothing is said of it.
	const torus = build("torus");
	expect(topology(makeMesh(torus.positions, torus.triangles.slice(3))).genus).toBe(0);
});

test("moving and turning a solid changes neither volume nor principal moments", () => {
	const mesh = build("box", { width: 1.3, height: 0.4, depth: 0.7 });
	const before = principalAxes(solid(mesh).inertia);
	fc.assert(
		fc.property(fc.tuple(turn(), turn(), turn()), fc.tuple(place(), place(), place()), (turns, translation) => {
			const moved = solid(transformMesh(mesh, { rotation: fromEuler(turns), translation }));
			const after = principalAxes(moved.inertia);
			expect(moved.volume).toBeCloseTo(0.364, 4);
			expect([...after.values].sort()).toEqual([...before.values].sort().map((v) => expect.closeTo(v, 4)));
			// The frame turns a principal axis onto an eigenvector: I·e = λ e.
			const axis = rotate(after.frame, [1, 0, 0]);
			const [xx, yy, zz, xy, xz, yz] = moved.inertia;
			expect(xx * axis[0] + xy * axis[1] + xz * axis[2]).toBeCloseTo(after.values[0] * axis[0], 6);
			expect(xy * axis[0] + yy * axis[1] + yz * axis[2]).toBeCloseTo(after.values[0] * axis[1], 6);
			expect(xz * axis[0] + yz * axis[1] + zz * axis[2]).toBeCloseTo(after.values[0] * axis[2], 6);
		}),
		{ numRuns: 50 },
	);
});
const turn = () => fc.double({ min: -3, max: 3, noNaN: true });
const place = () => fc.double({ min: -20, max: 20, noNaN: true });

test("a mirroring scale keeps the outside outside", () => {
	const mesh = transformMesh(build("box", { width: 1, height: 2, depth: 3 }), { scale: [-1, 1, 2] });
	expect(volume(mesh)).toBeCloseTo(12, 5);
});

test("an empty mesh measures nothing instead of failing", () => {
	const nothing = makeMesh([], []);
	expect([volume(nothing), area(nothing), boundsSize(bounds(nothing))]).toEqual([0, 0, [0, 0, 0]]);
});
