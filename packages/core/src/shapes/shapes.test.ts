import fc from "fast-check";
import { area, bounds, boundsSize, topology, volume } from "../mesh";
import { SHAPES, shapeById, shapeDefaults, shapeProblem, shapeTexts } from ".";

/** Volume in m³ by the textbook; polygons where the shape is made of flat strips. */
const VOLUMES: Record<string, (p: Record<string, number>) => number> = {
	// Less a strip along each edge and what is left of each corner.
	box: ({ width, height, depth, bevel: b }) =>
		width! * height! * depth! - 2 * b! ** 2 * (width! + height! + depth! - 6 * b!) - (20 / 3) * b! ** 3,
	panel: ({ width, height, thickness }) => width! * height! * thickness!,
	cone: ({ radius, top, height, segments }) => (polygon(segments!) * height! * (radius! ** 2 + radius! * top! + top! ** 2)) / 3,
	tube: ({ radius, wall, height, segments }) => polygon(segments!) * height! * (radius! ** 2 - (radius! - wall!) ** 2),
	// Pappus, with the turning circle and the wire as polygons.
	torus: ({ radius, wire, segments, sides }) => 2 * polygon(segments!) * radius! * polygon(sides!) * wire! ** 2,
	wedge: ({ width, height, depth }) => (width! * height! * depth!) / 2,
	arch: ({ radius, thickness, depth, segments }) =>
		0.5 * segments! * Math.sin(Math.PI / segments!) * ((radius! + thickness!) ** 2 - radius! ** 2) * depth!,
	cylinder: ({ radius, height, segments }) => 0.5 * segments! * radius! ** 2 * Math.sin((2 * Math.PI) / segments!) * height!,
};

/** Area of a polygon with this many corners on a circle of radius 1. */
const polygon = (corners: number): number => 0.5 * corners * Math.sin((2 * Math.PI) / corners);

const solidShapes = SHAPES.filter((shape) => !shape.endless);

test.each(solidShapes.map((shape) => [shape.id, shape] as const))(
	"%s is closed, faces outwards and stands around its origin",
	(_, shape) => {
		const mesh = shape.build(shapeDefaults(shape), shapeTexts(shape));
		expect(topology(mesh)).toMatchObject({ closed: true });
		expect(volume(mesh)).toBeGreaterThan(0);
		expect(area(mesh)).toBeGreaterThan(0);
		const { min, max } = bounds(mesh);
		for (let k = 0; k < 3; k++) expect(Math.abs(min[k]! + max[k]!)).toBeLessThan(0.25 * (max[k]! - min[k]!));
	},
);

test.each(Object.entries(VOLUMES))("%s has the volume of its formula, whatever its size", (id, formula) => {
	const shape = shapeById(id)!;
	const parameters = fc.record(
		Object.fromEntries(
			Object.entries(shape.parameters).map(([name, { unit, least, most }]) => [
				name,
				unit === "m" ? fc.double({ min: 0.01, max: 5, noNaN: true }) : fc.integer({ min: least, max: Math.min(most, 96) }),
			]),
		),
	);
	fc.assert(
		fc.property(parameters, (p) => {
			fc.pre(shapeProblem(shape, p) === undefined);
			// Thin rings far from the axis lose digits to single precision.
			expect(volume(shape.build(p, {})) / formula(p)).toBeCloseTo(1, 4);
		}),
		{ numRuns: 30 },
	);
});

test("a ball comes nearer to its formula with each detail", () => {
	const errors = [2, 3, 4, 5].map(
		(detail) => 1 - volume(shapeById("ball")!.build({ radius: 0.7, detail }, {})) / ((4 / 3) * Math.PI * 0.7 ** 3),
	);
	for (let i = 1; i < errors.length; i++) expect(errors[i]! / errors[i - 1]!).toBeCloseTo(0.25, 1);
});

test("bowl, cup and coil hold what hollow and wound things hold", () => {
	const bowl = { radius: 0.5, wall: 0.05, segments: 256 };
	expect(volume(shapeById("bowl")!.build(bowl, {})) / ((2 / 3) * Math.PI * (0.5 ** 3 - 0.45 ** 3))).toBeCloseTo(1, 2);
	const cup = { radius: 0.4, foot: 0.4, height: 0.8, wall: 0.04, segments: 256 };
	expect(volume(shapeById("cup")!.build(cup, {})) / (Math.PI * (0.4 ** 2 * 0.8 - 0.36 ** 2 * 0.76))).toBeCloseTo(1, 3);
	const coil = { radius: 0.3, wire: 0.03, turns: 6, pitch: 0.12, sides: 64 };
	const wound = 6 * Math.hypot(2 * Math.PI * 0.3, 0.12);
	expect(volume(shapeById("coil")!.build(coil, {})) / (Math.PI * 0.03 ** 2 * wound)).toBeCloseTo(1, 1.5);
});

test("terrain is the same for the same seed, stays within its relief, and is as large as the mean of its heights says", () => {
	const parameters = { ...shapeDefaults(shapeById("terrain")!), relief: 1, base: 0.5, cells: 80 };
	const mesh = shapeById("terrain")!.build(parameters, {});
	expect(shapeById("terrain")!.build(parameters, {}).positions).toEqual(mesh.positions);
	expect(shapeById("terrain")!.build({ ...parameters, seed: 8 }, {}).positions).not.toEqual(mesh.positions);
	const tops = [...mesh.positions.subarray(0, (3 * mesh.positions.length) / 6)].filter((_, i) => i % 3 === 1).map((y) => y + 0.75);
	expect(Math.min(...tops)).toBeGreaterThanOrEqual(0.5);
	expect(Math.max(...tops)).toBeLessThanOrEqual(1.5);
	expect(Math.max(...tops) - Math.min(...tops)).toBeGreaterThan(0.4);
	const mean = tops.reduce((sum, y) => sum + y, 0) / tops.length;
	expect(volume(mesh) / (64 * mean)).toBeCloseTo(1, 2);
});

test("sizes that do not go together are named", () => {
	const problem = (id: string, parameters: Record<string, number>) =>
		shapeProblem(shapeById(id)!, { ...shapeDefaults(shapeById(id)!), ...parameters });
	expect(problem("tube", { wall: 0.5 })).toMatch(/thinner than the radius/);
	expect(problem("torus", { wire: 0.6 })).toMatch(/smaller than the radius/);
	expect(problem("coil", { pitch: 0.05 })).toMatch(/run into each other/);
});

test("a size out of its limits is named", () => {
	const box = shapeById("box")!;
	expect(shapeProblem(box, { ...shapeDefaults(box), width: 0 })).toMatch(/^Width must lie between/);
	expect(shapeProblem(box, { width: 1, height: 1 })).toBeUndefined();
	expect(shapeProblem(box, shapeDefaults(box))).toBeUndefined();
	expect(boundsSize(bounds(box.build({ width: 1, height: 2, depth: 3 }, {})))).toEqual([1, 2, 3]);
});
