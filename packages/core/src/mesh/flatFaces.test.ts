import { SHAPES, shapeDefaults } from "../shapes";
import { flatFaces } from ".";

const build = (id: string, parameters: Record<string, number>) => {
	const shape = SHAPES.find((other) => other.id === id)!;
	return shape.build({ ...shapeDefaults(shape), ...parameters }, {});
};

test("a box has six flat faces, a cylinder two, a fine ball none", () => {
	const faces = flatFaces(build("box", { width: 2, height: 1, depth: 0.5 }));
	expect(faces.map(({ area }) => Number(area.toFixed(6)))).toEqual([2, 2, 1, 1, 0.5, 0.5]);
	const places = faces.map(({ middle }) => middle.map((x) => Number(x.toFixed(6)) + 0).join());
	const [x, y, z] = [1, 0.5, 0.25];
	expect(new Set(places)).toEqual(new Set([`${x},0,0`, `${-x},0,0`, `0,${y},0`, `0,${-y},0`, `0,0,${z}`, `0,0,${-z}`]));
	const caps = flatFaces(build("cylinder", { radius: 0.3, height: 2, segments: 64 }));
	expect(caps).toHaveLength(2);
	for (const { middle, area } of caps) {
		expect(area / (Math.PI * 0.09)).toBeCloseTo(1, 2);
		expect(Math.abs(middle[1])).toBeCloseTo(1, 6);
		expect(Math.hypot(middle[0], middle[2])).toBeLessThan(1e-6);
	}
	expect(flatFaces(build("ball", { radius: 0.5, detail: 5 }))).toEqual([]);
	expect(flatFaces({ positions: new Float32Array(0), triangles: new Uint32Array(0) })).toEqual([]);
});
