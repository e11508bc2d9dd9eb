import { POSE_STRIDE, posesAt } from "../cache";
import type { Quat } from "../maths";
import { bounds, transformMesh, volume } from "../mesh";
import { buildShape, shapeById } from "../shapes";
import { addArray, addObject, placeObject, setBody, setSettings } from "../shot";
import { fromSolid, loadSolids, type Solids, scoped, toSolid } from "../solid";
import { makeTestWorkshop, runShot, shape, shotOf } from "../testing";
import { buildBodies } from "./build";
import { fitCollider, scaleCollider } from "./collider";

let solids: Solids;
beforeAll(async () => {
	solids = await loadSolids();
});
const made = (id: string, parameters: Record<string, number>, texts?: Record<string, string>) =>
	buildShape(shapeById(id)!, parameters, texts);
const cup = { radius: 0.25, foot: 0.2, height: 0.4, wall: 0.03, segments: 32 };

/** A float chute: two rails and three boards under them, joined into one solid. */
const chute = () =>
	scoped((keep) => {
		const bar = (w: number, h: number, d: number, x: number, y: number, z: number) =>
			keep(toSolid(solids, transformMesh(made("box", { width: w, height: h, depth: d }), { translation: [x, y, z] })));
		const parts = [
			bar(2, 0.04, 0.04, 0, 0, -0.08),
			bar(2, 0.04, 0.04, 0, 0, 0.08),
			...[-0.9, 0, 0.9].map((x) => bar(0.04, 0.04, 0.24, x, -0.03, 0)),
		];
		return fromSolid(keep(solids.Manifold.union(parts)));
	});

test.each([
	["a cup", () => made("cup", cup), 36, 0.15],
	["a ring of a chain", () => made("torus", { radius: 0.1, wire: 0.03, segments: 32, sides: 16 }), 16, 0.06],
	["joined rails", () => chute(), 16, 0.035],
	["the letter S", () => made("letters", { height: 0.4, depth: 0.1, bevel: 0, spacing: 0 }, { text: "S" }), 24, 0.08],
])("convex parts of %s come as close to its volume as was asked for", (_, build, mostHulls, tolerance) => {
	const mesh = build();
	const { shape: made, error, choice } = fitCollider(solids, mesh, "parts", "active", { mostHulls, tolerance, depth: 0 });
	expect(choice).toBe("parts");
	if (made.kind !== "hulls") throw new Error("expected hulls");
	expect(made.hulls.length).toBeLessThanOrEqual(mostHulls);
	expect(error).toBeLessThan(tolerance + 1e-9);
	expect(error).toBeGreaterThan(-1e-6);
	// What was asked for more coarsely takes fewer.
	const coarse = fitCollider(solids, mesh, "parts", "active", { mostHulls, tolerance: 0.5, depth: 0 });
	expect(coarse.shape.kind === "hulls" && coarse.shape.hulls.length).toBeLessThan(made.hulls.length + 1);
	expect(volume(mesh)).toBeGreaterThan(0);
});

test("the hull of a cup buries its bottom by the depth of the cup; parts that may bury 40 mm do so at most, and take more hulls than without", () => {
	const mesh = made("cup", cup);
	// 0.4 m high with a bottom of 0.03 m.
	expect(fitCollider(solids, mesh, "hull", "active").depth).toBeCloseTo(cup.height - cup.wall, 2);
	// Nobody stands farther than half of the wire from a ring whose hole is filled.
	const ring = made("torus", { radius: 0.1, wire: 0.03, segments: 32, sides: 16 });
	expect(fitCollider(solids, ring, "hull", "active").depth).toBeCloseTo(0.03, 4);
	const limited = fitCollider(solids, mesh, "parts", "active", { mostHulls: 64, tolerance: 10, depth: 0.04 });
	const free = fitCollider(solids, mesh, "parts", "active", { mostHulls: 64, tolerance: 10, depth: 0 });
	expect(limited.depth).toBeLessThanOrEqual(0.04);
	expect(free.depth).toBeGreaterThan(0.04);
	const count = ({ shape }: typeof free) => (shape.kind === "hulls" ? shape.hulls.length : 0);
	expect(count(limited)).toBeGreaterThan(count(free));
	// A smaller copy buries less.
	expect(scaleCollider(limited, 0.5).depth).toBeCloseTo(limited.depth! / 2, 9);
});

test("what is convex is buried nowhere", () => {
	expect(fitCollider(solids, made("box", { width: 1, height: 2, depth: 0.5 }), "parts", "active").depth).toBeLessThan(1e-6);
});

test("a ball stays in an active cup, and hops out of one whose hull fills it", async () => {
	const scene = (collider: "parts" | "hull") =>
		shotOf(
			shape("ground", "ground", {}),
			setBody(["ground"], { kind: "passive" }),
			shape("cup", "cup", cup, [0, 0.2, 0]),
			setBody(["cup"], { kind: "active", collider, hulls: 24, hullError: 0.12 }),
			shape("ball", "ball", { radius: 0.07, detail: 2 }, [0, 0.75, 0]),
			setBody(["ball"], { kind: "active" }),
			setSettings({ lastFrame: 60 }),
		);
	const inside = await runShot(scene("parts"));
	expect(inside.at("ball", 60)[1]).toBeLessThan(0.2);
	const outside = await runShot(scene("hull"));
	expect(outside.at("ball", 60)[1] > 0.35 || Math.hypot(outside.at("ball", 60)[0], outside.at("ball", 60)[2]) > 0.2).toBe(true);
});

test("a float rolls down a chute of joined rails that moves as one body", async () => {
	const tilt = Math.sin(0.1);
	const shot = shotOf(
		shape("rails", "box", { width: 2, height: 0.04, depth: 0.04 }, [0, 1, -0.08]),
		shape("rails2", "box", { width: 2, height: 0.04, depth: 0.04 }, [0, 1, 0.08]),
		...["rails", "rails2"].flatMap((id) => [
			placeObject(id, { rotation: [0, 0, tilt, Math.sqrt(1 - tilt * tilt)] }),
			setBody([id], { kind: "passive" }),
		]),
		shape("float", "ball", { radius: 0.11, detail: 3 }, [0.8, 1.3, 0]),
		setBody(["float"], { kind: "active" }),
		setSettings({ lastFrame: 49 }),
	);
	const run = await runShot(shot);
	const [x, , z] = run.at("float", 40);
	expect(x).toBeLessThan(-0.2);
	expect(Math.abs(z)).toBeLessThan(0.01);
});

test("a capsule holds every point of what it is fitted to, and a turned box is the smaller one", () => {
	const bar = transformMesh(made("box", { width: 1, height: 0.1, depth: 0.1 }), { rotation: [0, 0, 0.3826834, 0.9238795] });
	const box = fitCollider(solids, bar, "box", "active");
	expect(box.error).toBeCloseTo(0, 3);
	expect(fitCollider(solids, bar, "auto", "active").choice).toBe("box");
	const rod = made("cylinder", { radius: 0.1, height: 1, segments: 32 });
	const { shape: capsule, error } = fitCollider(solids, rod, "capsule", "active");
	if (capsule.kind !== "capsule") throw new Error("expected a capsule");
	expect(capsule.radius).toBeCloseTo(0.1, 4);
	expect(capsule.half).toBeCloseTo(0.5, 4);
	expect(error).toBeGreaterThan(0);
	expect(error).toBeLessThan(0.15);
});

test("a hull for each connected part leaves the room between them free", () => {
	const two = scoped((keep) => {
		const a = keep(toSolid(solids, made("box", { width: 0.2, height: 0.2, depth: 0.2 })));
		return fromSolid(keep(solids.Manifold.compose([a, keep(a.translate([1, 0, 0]))])));
	});
	const { shape: hulls, error } = fitCollider(solids, two, "shells", "active");
	expect(hulls.kind === "hulls" && hulls.hulls.length).toBe(2);
	expect(error).toBeCloseTo(0, 6);
});

test("two thousand small stones poured into a bowl stay in it", async () => {
	const shot = shotOf(
		shape("bowl", "bowl", { radius: 1.1, wall: 0.08, segments: 48 }, [0, 0.56, 0]),
		setBody(["bowl"], { kind: "passive" }),
		shape("stone", "box", { width: 0.05, height: 0.05, depth: 0.05 }, [5, 0, 0]),
		addObject({
			id: "stones",
			name: "Stones",
			source: {
				kind: "array",
				sources: ["stone"],
				layout: "grid",
				options: { columns: 12, layers: 14, rows: 12, stepX: 0.08, stepY: 0.08, stepZ: 0.08, jitter: 0.01 },
			},
			translation: [0, 0.75, 0],
		}),
		setBody(["stones"], { kind: "active" }),
		setSettings({ lastFrame: 49 }),
	);
	const run = await runShot(shot);
	const low = run.scene.ids.filter((id) => id.startsWith("stones:")).filter((id) => run.at(id, 49)[1] < 0.02);
	expect(run.scene.count).toBe(2017);
	expect(low).toEqual([]);
}, 240_000);

test("cones and cylinders that are tipped into a cup stand on its floor, and not in it", async () => {
	const cup = { radius: 0.4, foot: 0.4, height: 0.8, wall: 0.04, segments: 48 };
	const shot = shotOf(
		shape("cup", "cup", cup, [0, 0.4, 0]),
		setBody(["cup"], { kind: "passive" }),
		shape("cone", "cone", { radius: 0.4, top: 0, height: 1, segments: 48 }, [5, 0, 0]),
		shape("drum", "cylinder", { radius: 0.3, height: 1, segments: 48 }, [6, 0, 0]),
		addArray({
			id: "tipped",
			name: "Tipped",
			source: {
				kind: "array",
				sources: ["cone", "drum"],
				layout: "volume",
				options: { in: ["cup"], pattern: "poured", turn: 1, smallest: 0.08, largest: 0.1, count: 60 },
			},
		}),
		setBody(["tipped"], { kind: "active" }),
		setSettings({ lastFrame: 60 }),
	);
	const run = await runShot(shot);
	const { bodies } = await buildBodies(await makeTestWorkshop(), shot);
	const poses = posesAt(run.store, 60)!;
	const tipped = bodies.filter(({ origin }) => origin === "copy");
	expect(tipped).toHaveLength(60);
	// The floor is 4 cm thick; as hulls, cones went through it.
	for (const body of tipped) {
		const at = POSE_STRIDE * run.scene.ids.indexOf(body.id);
		const placed = transformMesh(body.mesh, {
			rotation: poses.subarray(at + 3, at + 7) as unknown as Quat,
			scale: [body.scale, body.scale, body.scale],
		});
		expect(bounds(placed).min[1] + poses[at + 1]!).toBeGreaterThan(0.04 - 0.004);
	}
});

test("a shape that stands in collides in another's place: a block rests on the small ball that stands in for it", async () => {
	const shot = shotOf(
		shape("ground", "ground", {}),
		setBody(["ground"], { kind: "passive" }),
		shape("knob", "ball", { radius: 0.1, detail: 3 }, [3, 0.1, 0]),
		shape("block", "box", { width: 1, height: 1, depth: 1 }, [0, 0.7, 0]),
		setBody(["block"], { kind: "active", proxy: "knob" }),
		setSettings({ lastFrame: 49 }),
	);
	const run = await runShot(shot);
	expect(run.at("block", 49)[1]).toBeCloseTo(0.1, 2);
	// It weighs what it is, and says how far the stand-in is from it.
	expect(run.scene.mass[run.scene.ids.indexOf("block")]).toBeCloseTo(2400, 6);
	expect(run.scene.colliders[run.scene.ids.indexOf("block")]!.error).toBeCloseTo((4 / 3) * Math.PI * 0.001 - 1, 2);
});

test("a thing whose centre of mass was moved turns about that", async () => {
	const shot = shotOf(
		shape("plank", "box", { width: 1, height: 0.1, depth: 0.1 }),
		setBody(["plank"], { kind: "active", centre: [0.4, 0, 0], spin: [0, 0, 3] }),
		setSettings({ gravity: [0, 0, 0], lastFrame: 25, stepsPerSecond: 240 }),
	);
	const run = await runShot(shot);
	for (const frame of [5, 12, 25]) {
		const angle = (3 * (frame - 1)) / 24;
		const [x, y] = run.at("plank", frame);
		expect(x).toBeCloseTo(0.4 - 0.4 * Math.cos(angle), 2);
		expect(y).toBeCloseTo(-0.4 * Math.sin(angle), 2);
	}
});
