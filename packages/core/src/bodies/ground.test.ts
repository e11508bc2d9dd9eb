import { solid } from "../mesh";
import { addObject, edit, placeObject, setBody } from "../shot";
import { makeScene } from "../simulation";
import { makeTestWorkshop, runShot, shape, shotOf } from "../testing";
import { buildBodies, colliderOf } from ".";

const foreshore = shotOf(
	shape("shore", "terrain", { width: 8, depth: 8, relief: 1, wave: 3, base: 0.5, cells: 32, seed: 3 }),
	setBody(["shore"], { kind: "passive" }),
	addObject({ id: "strip", name: "Strip", source: { kind: "region", form: "box" } }),
	placeObject("strip", { scale: [2, 4, 6], translation: [1, 0, 0] }),
);
async function colliderIn(shot: typeof foreshore) {
	const workshop = await makeTestWorkshop();
	const { bodies } = await buildBodies(workshop, shot);
	const body = bodies.find(({ id }) => id === "shore")!;
	return { body, fitted: await colliderOf(workshop, shot, body), scene: await makeScene(workshop, shot, bodies) };
}

test("terrain that is cropped to a region collides only there, in parts where that is asked for", async () => {
	const cropped = edit(foreshore, setBody(["shore"], { crop: "strip" })).shot;
	const { body, fitted } = await colliderIn(cropped);
	if (fitted.shape.kind !== "mesh") throw new Error("not a mesh");
	const { positions } = fitted.shape.mesh;
	for (let v = 0; v < positions.length; v += 3) {
		expect(Math.abs(positions[v]! - 1)).toBeLessThan(1 + 1e-6);
		expect(Math.abs(positions[v + 2]!)).toBeLessThan(3 + 1e-6);
	}
	// 2 × 6 of 8 × 8 metres, of a ground that is uneven.
	expect(solid(fitted.shape.mesh).volume / solid(body.mesh).volume).toBeGreaterThan(0.15);
	expect(solid(fitted.shape.mesh).volume / solid(body.mesh).volume).toBeLessThan(0.23);
	const parts = await colliderIn(edit(cropped, setBody(["shore"], { collider: "parts", hulls: 24 })).shot);
	expect(parts.fitted.choice).toBe("parts");
	expect(parts.fitted.error).toBeLessThan(0.1);
	const moved = edit(cropped, placeObject("strip", { translation: [50, 0, 0] })).shot;
	// Where nothing would be left, all of it counts.
	expect(((await colliderIn(moved)).fitted.shape as { mesh: { triangles: Uint32Array } }).mesh.triangles.length).toBe(
		body.mesh.triangles.length,
	);
});

test("a ball lies on the strip and falls past it; on flat ground it lies at the mean height", async () => {
	const withBall = (x: number) =>
		edit(
			edit(edit(foreshore, setBody(["shore"], { crop: "strip" })).shot, shape("ball", "ball", { radius: 0.15, detail: 3 }, [x, 2, 0])).shot,
			setBody(["ball"], { kind: "active", rolling: 0.3 }),
		).shot;
	const on = await runShot(withBall(1), 60);
	expect(on.at("ball", 60)[1]).toBeGreaterThan(-1);
	const past = await runShot(withBall(-2), 60);
	expect(past.at("ball", 60)[1]).toBeLessThan(-10);
	const flat = edit(withBall(-2), setBody(["shore"], { crop: undefined, collider: "plain" })).shot;
	const lies = await runShot(flat, 72);
	const { body } = await colliderIn(flat);
	let lowest = Number.POSITIVE_INFINITY;
	for (let v = 1; v < body.mesh.positions.length; v += 3) lowest = Math.min(lowest, body.mesh.positions[v]!);
	expect(lies.at("ball", 72)[1]).toBeCloseTo(lowest + solid(body.mesh).volume / 64 + 0.15, 2);
});
