import fc from "fast-check";
import { area, bounds, boundsSize, topology, volume } from "../mesh";
import { SHAPES, shapeById, shapeDefaults, shapeProblem } from ".";

/** Volume in m³ by the textbook; polygons where the shape is made of flat strips. */
const VOLUMES: Record<string, (p: Record<string, number>) => number> = {
	box: ({ width, height, depth }) => width! * height! * depth!,
	panel: ({ width, height, thickness }) => width! * height! * thickness!,
	cylinder: ({ radius, height, segments }) => 0.5 * segments! * radius! ** 2 * Math.sin((2 * Math.PI) / segments!) * height!,
};

const solidShapes = SHAPES.filter((shape) => !shape.endless);

test.each(solidShapes.map((shape) => [shape.id, shape] as const))(
	"%s is closed, faces outwards and stands around its origin",
	(_, shape) => {
		const mesh = shape.build(shapeDefaults(shape));
		expect(topology(mesh)).toMatchObject({ closed: true });
		expect(volume(mesh)).toBeGreaterThan(0);
		expect(area(mesh)).toBeGreaterThan(0);
		const { min, max } = bounds(mesh);
		for (let k = 0; k < 3; k++) expect(min[k]! + max[k]!).toBeCloseTo(0, 2);
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
			expect(volume(shape.build(p)) / formula(p)).toBeCloseTo(1, 5);
		}),
		{ numRuns: 30 },
	);
});

test("a ball comes nearer to its formula with each detail", () => {
	const errors = [2, 3, 4, 5].map(
		(detail) => 1 - volume(shapeById("ball")!.build({ radius: 0.7, detail })) / ((4 / 3) * Math.PI * 0.7 ** 3),
	);
	for (let i = 1; i < errors.length; i++) expect(errors[i]! / errors[i - 1]!).toBeCloseTo(0.25, 1);
});

test("a size out of its limits is named", () => {
	const box = shapeById("box")!;
	expect(shapeProblem(box, { ...shapeDefaults(box), width: 0 })).toMatch(/^Width must lie between/);
	expect(shapeProblem(box, { width: 1, height: 1 })).toMatch(/^Depth/);
	expect(shapeProblem(box, shapeDefaults(box))).toBeUndefined();
	expect(boundsSize(bounds(box.build({ width: 1, height: 2, depth: 3 })))).toEqual([1, 2, 3]);
});
