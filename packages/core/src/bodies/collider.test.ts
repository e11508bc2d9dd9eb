import { Cancelled, inTurns } from "../common";
import { inverse, type Quat, rotate, vec3 } from "../maths";
import { type Mesh, transformMesh } from "../mesh";
import { buildShape, shapeById } from "../shapes";
import { ball } from "../shapes/ball";
import { box } from "../shapes/box";
import { cylinder } from "../shapes/cylinder";
import { fromSolid, loadSolids, type Solids, scoped, toSolid } from "../solid";
import { fitCollider, fittingCollider } from "./collider";

let solids: Solids;
beforeAll(async () => {
	solids = await loadSolids();
});

/** An L: two bars that meet in a corner. */
const corner = (): Mesh =>
	scoped((keep) => {
		const a = keep(toSolid(solids, box.build({ width: 2, height: 0.5, depth: 0.5 }, {})));
		const b = keep(keep(toSolid(solids, box.build({ width: 0.5, height: 2, depth: 0.5 }, {}))).translate([-0.75, 0.75, 0]));
		return fromSolid(keep(a.add(b)));
	});

test("automatic takes the simplest shape whose volume fits within 2 %", () => {
	expect(fitCollider(solids, ball.build({ radius: 0.5, detail: 3 }, {}), "auto", "active")).toMatchObject({
		choice: "sphere",
		error: expect.closeTo(0.0086, 2),
	});
	expect(fitCollider(solids, box.build({ width: 1, height: 2, depth: 3 }, {}), "auto", "active")).toMatchObject({
		choice: "box",
		error: expect.closeTo(0, 6),
	});
	// Round within 2 %; with six sides it is not.
	expect(fitCollider(solids, cylinder.build({ radius: 0.3, height: 1, segments: 24 }, {}), "auto", "active")).toMatchObject({
		choice: "cylinder",
		error: expect.closeTo(Math.PI / (12 * Math.sin(Math.PI / 12)) - 1, 4),
	});
	expect(fitCollider(solids, cylinder.build({ radius: 0.3, height: 1, segments: 6 }, {}), "auto", "active")).toMatchObject({
		choice: "hull",
		error: expect.closeTo(0, 5),
	});
});

test.each([
	["cylinder", { radius: 0.3, height: 1, segments: 48 }, 0.3, 0.5],
	// As wide as it is high, in moments: any axes are principal ones.
	["cylinder", { radius: 0.3, height: 0.3 * Math.sqrt(3), segments: 48 }, 0.3, 0.15 * Math.sqrt(3)],
	["cylinder", { radius: 0.4, height: 0.05, segments: 96 }, 0.4, 0.025],
	["cone", { radius: 0.4, top: 0, height: 1, segments: 48 }, 0.4, 0.5],
] as const)("a %s that lies any way round is found, and holds every point of it", (id, sizes, radius, half) => {
	for (const rotation of [
		[0, 0, 0, 1],
		[0, 0, Math.SQRT1_2, Math.SQRT1_2],
		[0.5, -0.1, 0.7, 0.5],
	] as const) {
		const turn = rotation.map((q) => q / Math.hypot(...rotation)) as unknown as Quat;
		const mesh = transformMesh(buildShape(shapeById(id)!, sizes), { rotation: turn, translation: [1, 2, 3] });
		const { shape, choice, error } = fitCollider(solids, mesh, "auto", "active");
		if (shape.kind !== "cylinder" && shape.kind !== "cone") throw new Error(`expected something round, not a ${choice}`);
		expect([choice, error < 0.02]).toEqual([id, true]);
		expect([shape.radius, shape.half]).toEqual([expect.closeTo(radius, 4), expect.closeTo(half, 4)]);
		for (let v = 0; v < mesh.positions.length; v += 3) {
			const out = vec3.subtract([mesh.positions[v]!, mesh.positions[v + 1]!, mesh.positions[v + 2]!], shape.centre);
			const [x, y, z] = rotate(inverse(shape.turn), out);
			const wide = id === "cone" ? (shape.radius * (shape.half - y)) / (2 * shape.half) : shape.radius;
			expect(Math.hypot(x, z)).toBeLessThan(wide + 1e-4);
			expect(Math.abs(y)).toBeLessThan(shape.half + 1e-4);
		}
	}
});

test("what has a cone's volume but not its shape is no cone", () => {
	// A box on its corner has the moments of a ball, and a frustum is too wide at its top.
	expect(
		fitCollider(solids, buildShape(shapeById("cone")!, { radius: 0.4, top: 0.2, height: 1, segments: 48 }), "auto", "active").choice,
	).toBe("hull");
	expect(fitCollider(solids, box.build({ width: 1, height: 1, depth: 1 }, {}), "cone", "active").error).toBeGreaterThan(1);
});

test("a hollow shape gets parts when it moves and its exact mesh when it does not", () => {
	const mesh = corner();
	const active = fitCollider(solids, mesh, "auto", "active");
	expect(active.choice).toBe("parts");
	expect(active.error).toBeLessThan(0.02);
	expect(active.shape.kind === "hulls" && active.shape.hulls.length).toBe(2);
	expect(fitCollider(solids, mesh, "auto", "passive").choice).toBe("mesh");
	expect(fitCollider(solids, mesh, "mesh", "active").choice).toBe("parts");
});

test("a hull over a hollow says how much it adds", () => {
	// Hull of the L: the square of 2 × 2 less the triangle cut off by the outer corners.
	const { error } = fitCollider(solids, corner(), "hull", "active");
	expect(error).toBeCloseTo(((4 - (1.5 * 1.5) / 2) * 0.5) / (0.5 + 0.5 - 0.125) - 1, 4);
});

test("parts of a finely drawn ring leave out what is too fine to matter, and none reaches out of it", () => {
	const sizes = { radius: 0.5, wire: 0.12 };
	const ring = buildShape(shapeById("torus")!, sizes);
	const { shape, error } = fitCollider(solids, ring, "parts", "active");
	if (shape.kind !== "hulls") throw new Error("expected hulls");
	expect(Math.max(...shape.hulls.map((points) => points.length / 3))).toBeLessThan(70);
	expect(Math.abs(error)).toBeLessThan(0.03);
	// On the inner side the flat strips of the ring lie nearer to its axis than its curve.
	for (const points of shape.hulls)
		for (let v = 0; v < points.length; v += 3) {
			const off = Math.hypot(Math.hypot(points[v]!, points[v + 2]!) - sizes.radius, points[v + 1]!);
			expect(off).toBeLessThan(sizes.wire + 1.5e-3);
		}
});

test("parts of a ring leave its hole open", () => {
	const ring = scoped((keep) => {
		const disc = keep(toSolid(solids, cylinder.build({ radius: 1, height: 0.4, segments: 32 }, {})));
		const hole = keep(toSolid(solids, cylinder.build({ radius: 0.6, height: 1, segments: 32 }, {})));
		return fromSolid(keep(disc.subtract(hole)));
	});
	const { shape, error } = fitCollider(solids, ring, "auto", "active");
	expect(error).toBeLessThan(0.2);
	if (shape.kind !== "hulls") throw new Error("expected hulls");
	expect(shape.hulls.length).toBeGreaterThan(4);
	for (const points of shape.hulls)
		for (let v = 0; v < points.length; v += 3) expect(Math.hypot(points[v]!, points[v + 2]!)).toBeGreaterThan(0.55);
});

test("very many hulls can be given up in between, and are the same whether others had their turn or not", async () => {
	const ring = buildShape(shapeById("torus")!, { segments: 16, sides: 8 });
	const many = { mostHulls: 8, tolerance: 0, depth: 0 };
	let turns = 0;
	const fitting = () => fittingCollider(solids, ring, "parts", "active", many);
	const made = await inTurns(fitting(), async () => void turns++);
	expect(turns).toBeGreaterThan(30);
	expect(made).toEqual(fitCollider(solids, ring, "parts", "active", many));
	const pause = async () => {
		if (--turns < 20) throw new Cancelled();
	};
	await expect(inTurns(fitting(), pause)).rejects.toThrow(Cancelled);
	expect(turns).toBe(19);
});
