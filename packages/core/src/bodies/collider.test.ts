import type { Mesh } from "../mesh";
import { ball } from "../shapes/ball";
import { box } from "../shapes/box";
import { cylinder } from "../shapes/cylinder";
import { fromSolid, loadSolids, type Solids, scoped, toSolid } from "../solid";
import { fitCollider } from "./collider";

let solids: Solids;
beforeAll(async () => {
	solids = await loadSolids();
});

/** An L: two bars that meet in a corner. */
const corner = (): Mesh =>
	scoped((keep) => {
		const a = keep(toSolid(solids, box.build({ width: 2, height: 0.5, depth: 0.5 })));
		const b = keep(keep(toSolid(solids, box.build({ width: 0.5, height: 2, depth: 0.5 }))).translate([-0.75, 0.75, 0]));
		return fromSolid(keep(a.add(b)));
	});

test("automatic takes the simplest shape whose volume fits within 2 %", () => {
	expect(fitCollider(solids, ball.build({ radius: 0.5, detail: 3 }), "auto", "active")).toMatchObject({
		choice: "sphere",
		error: expect.closeTo(0.0086, 2),
	});
	expect(fitCollider(solids, box.build({ width: 1, height: 2, depth: 3 }), "auto", "active")).toMatchObject({
		choice: "box",
		error: expect.closeTo(0, 6),
	});
	expect(fitCollider(solids, cylinder.build({ radius: 0.3, height: 1, segments: 24 }), "auto", "active")).toMatchObject({
		choice: "hull",
		error: expect.closeTo(0, 5),
	});
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

test("parts of a ring leave its hole open", () => {
	const ring = scoped((keep) => {
		const disc = keep(toSolid(solids, cylinder.build({ radius: 1, height: 0.4, segments: 32 })));
		const hole = keep(toSolid(solids, cylinder.build({ radius: 0.6, height: 1, segments: 32 })));
		return fromSolid(keep(disc.subtract(hole)));
	});
	const { shape, error } = fitCollider(solids, ring, "auto", "active");
	expect(error).toBeLessThan(0.2);
	if (shape.kind !== "hulls") throw new Error("expected hulls");
	expect(shape.hulls.length).toBeGreaterThan(4);
	for (const points of shape.hulls)
		for (let v = 0; v < points.length; v += 3) expect(Math.hypot(points[v]!, points[v + 2]!)).toBeGreaterThan(0.55);
});
