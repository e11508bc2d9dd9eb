import { type Vec3, vec3 } from "../maths";
import { diagonal, type Mesh, solid } from "../mesh";
import { buildShape, shapeById } from "../shapes";
import { setBody, setFracture } from "../shot";
import { fromSolid, loadSolids, scoped, toSolid } from "../solid";
import { makeTestWorkshop, shape, shotOf } from "../testing";
import { buildBodies } from "./build";
import { fourCorners } from "./fourCorners";

async function hullOf(mesh: Mesh): Promise<Mesh> {
	const solids = await loadSolids();
	return scoped((keep) => fromSolid(keep(keep(toSolid(solids, { ...mesh, uv: new Float32Array(0) })).hull())));
}

const pointsOf = (positions: ArrayLike<number>) =>
	Array.from({ length: positions.length / 3 }, (_, v): Vec3 => [positions[3 * v]!, positions[3 * v + 1]!, positions[3 * v + 2]!]);

/** m³ of the hull of these points. */
async function volumeOf(points: Float32Array): Promise<number> {
	const { Manifold } = await loadSolids();
	return scoped((keep) => keep(Manifold.hull(pointsOf(points).map(([x, y, z]) => [x, y, z] as [number, number, number]))).volume());
}

test("what has no more than four corners to a face stays as it is", async () => {
	const box = await hullOf(buildShape(shapeById("box")!, { width: 1, height: 2, depth: 3 }));
	expect(fourCorners(box)).toEqual(box.positions);
});

test.each([5, 6, 7, 9, 24])("a prism of %i sides stands on four corners that span the most of its foot", async (sides) => {
	const prism = await hullOf(buildShape(shapeById("cylinder")!, { radius: 0.5, height: 1, segments: sides }));
	const low = (positions: ArrayLike<number>) => {
		const least = Math.min(...pointsOf(positions).map(([, y]) => y));
		return pointsOf(positions).filter(([, y]) => y < least + 1e-6);
	};
	expect(low(prism.positions)).toHaveLength(sides);
	const points = fourCorners(prism);
	const foot = low(points);
	expect(foot).toHaveLength(4);
	// Nothing of them has moved, and they go around the middle: in each quarter turn there is one.
	for (const point of foot)
		expect(Math.min(...low(prism.positions).map((one) => vec3.length(vec3.subtract(one, point))))).toBeLessThan(1e-6);
	const around = foot.map(([x, , z]) => Math.atan2(z, x)).sort((a, b) => a - b);
	const gaps = around.map((angle, k) => (k === 3 ? around[0]! + 2 * Math.PI : around[k + 1]!) - angle);
	expect(Math.max(...gaps)).toBeLessThan(2.6);
	// By no more than is not seen, and inwards only.
	const moved = pointsOf(points).map((point, v) => vec3.length(vec3.subtract(point, pointsOf(prism.positions)[v]!)));
	expect(Math.max(...moved)).toBeGreaterThan(0);
	expect(Math.max(...moved)).toBeLessThan(0.015);
	const [before, after] = [solid(prism).volume, await volumeOf(points)];
	expect(after).toBeLessThan(before);
	expect(after).toBeGreaterThan(0.985 * before);
});

test("pieces of a broken block keep their faces, nearly all with four corners; what is drawn back is next to nothing", async () => {
	const shot = shotOf(
		shape("block", "box", { width: 2, height: 1, depth: 1 }),
		setBody(["block"], { kind: "active" }),
		setFracture("f", { object: "block", method: "voronoi", options: { count: 60, seed: 3 } }),
	);
	const { bodies } = await buildBodies(await makeTestWorkshop(), shot);
	let many = 0;
	let left = 0;
	for (const { mesh } of bodies) {
		const hull = await hullOf(mesh);
		const [before, after] = [pointsOf(hull.positions), pointsOf(fourCorners(hull))];
		const near = 1e-5 * diagonal(hull);
		for (let f = 0; f < hull.triangles.length; f += 3) {
			const [a, b, c] = [0, 1, 2].map((k) => before[hull.triangles[f + k]!]!) as [Vec3, Vec3, Vec3];
			const cross = vec3.cross(vec3.subtract(b, a), vec3.subtract(c, a));
			if (vec3.length(cross) < 0.02 * diagonal(hull) ** 2) continue;
			const normal = vec3.scale(cross, 1 / vec3.length(cross));
			const on = (points: readonly Vec3[]) => points.filter((point) => Math.abs(vec3.dot(normal, vec3.subtract(point, a))) < near).length;
			if (on(before) > 4) many++;
			if (on(after) > 4) left++;
			expect(on(after)).toBeGreaterThanOrEqual(3);
		}
		expect(await volumeOf(fourCorners(hull))).toBeGreaterThan(0.98 * solid(hull).volume);
	}
	// There were such faces, or this would show nothing.
	expect(many).toBeGreaterThan(100);
	// Corners between faces that are nearly flat to each other cannot be drawn back.
	expect(left).toBeLessThan(0.02 * many);
});
