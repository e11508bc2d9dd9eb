import { WebIO } from "@gltf-transform/core";
import validator from "gltf-validator";
import { buildBodies } from "../bodies";
import { posesAt } from "../cache";
import { radians } from "../maths";
import { edit, type Shot, setBody, setFlags, setFracture, setMaterial } from "../shot";
import { makeTestWorkshop, runShot, shape, shotOf, type TestRun } from "../testing";
import { exportTake, glb } from ".";
import { csv, json } from "./transforms";

const shot: Shot = shotOf(
	shape("ground", "ground", {}),
	setBody(["ground"], { kind: "passive" }),
	shape("block", "box", { width: 1, height: 1, depth: 1 }, [0, 1.2, 0]),
	setBody(["block"], { kind: "active", spin: [1, 2, 0] }),
	setFracture("f", { object: "block", method: "voronoi", options: { count: 10 } }),
	shape("pane", "panel", { width: 1, height: 1, thickness: 0.01 }, [3, 0.5, 0]),
	setMaterial(["pane"], "glass"),
);
let run: TestRun;
let bodies: Awaited<ReturnType<typeof buildBodies>>["bodies"];
beforeAll(async () => {
	run = await runShot(shot, 48);
	bodies = (await buildBodies(await makeTestWorkshop(), shot)).bodies;
});
const take = (tolerance: number, from = shot) =>
	exportTake(
		{ shot: from, bodies, takeBodies: run.scene.ids.map((id) => ({ id })), store: run.store },
		{ range: { firstFrame: 1, lastFrame: 48 }, keys: { way: "reduced", position: tolerance, rotation: radians(0.5) } },
	);

test("the GLB passes the format's own validator without an error or a warning", async () => {
	const report = await validator.validateBytes(await glb.write(take(0.002), {}));
	expect(report.issues.messages.filter(({ severity }) => severity < 2)).toEqual([]);
	expect(report.info).toMatchObject({ animationCount: 1, hasMorphTargets: false });
});

test("read back by another program's reader, its pieces stand where the cache has them", async () => {
	const tolerance = 0.002;
	const document = await new WebIO().readBinary((await glb.write(take(tolerance), {})) as Uint8Array<ArrayBuffer>);
	const root = document.getRoot();
	const names = root.listNodes().map((node) => node.getName());
	expect(names).toContain("block/00007");
	expect(
		root
			.listNodes()
			.find((node) => node.getName() === "block")!
			.listChildren(),
	).toHaveLength(10);
	expect(
		root
			.listMaterials()
			.map((material) => material.getName())
			.sort(),
	).toEqual(["Concrete", "Glass", "Raw concrete"]);
	let compared = 0;
	for (const channel of root.listAnimations()[0]!.listChannels()) {
		if (channel.getTargetPath() !== "translation") continue;
		const name = channel.getTargetNode()!.getName();
		const body = run.scene.paths.indexOf(name);
		const [times, values] = [channel.getSampler()!.getInput()!.getArray()!, channel.getSampler()!.getOutput()!.getArray()!];
		for (let frame = 1; frame <= 48; frame++) {
			const t = (frame - 1) / 24;
			let k = 0;
			while (k + 1 < times.length && times[k + 1]! <= t + 1e-6) k++;
			const next = Math.min(k + 1, times.length - 1);
			const f = next === k ? 0 : (t - times[k]!) / (times[next]! - times[k]!);
			const poses = posesAt(run.store, frame)!;
			for (let axis = 0; axis < 3; axis++) {
				const value = values[3 * k + axis]! * (1 - f) + values[3 * next + axis]! * f;
				expect(Math.abs(value - poses[7 * body + axis]!)).toBeLessThan(tolerance * 1.01);
			}
			compared++;
		}
	}
	expect(compared).toBe(10 * 48);
});

test("CSV and JSON hold the keys by name", async () => {
	const scene = take(0.005);
	const lines = new TextDecoder()
		.decode(await csv.write(scene, {}))
		.trim()
		.split("\n");
	expect(lines[0]).toBe("frame,seconds,name,x,y,z,qx,qy,qz,qw");
	expect(lines).toHaveLength(1 + scene.baked.error.keys);
	expect(lines[1]!.split(",").slice(0, 3)).toEqual(["1", "0", "block/00001"]);
	const parsed = JSON.parse(new TextDecoder().decode(await json.write(scene, {})));
	expect(parsed).toMatchObject({ format: "mighty-rubble-transforms", fps: 24, firstFrame: 1 });
	expect(parsed.bodies).toHaveLength(10);
	expect(parsed.bodies[0].translations[0]).toHaveLength(3);
});

test("what is hidden stays out, and what takes no part stands still in the file", async () => {
	const names = (scene: ReturnType<typeof take>) => scene.items.map((item) => item.path);
	expect(names(take(0.01))).toContain("pane");
	expect(take(0.01).items.find((item) => item.path === "pane")!.track).toBe(-1);
	expect(names(take(0.01, edit(shot, setFlags(["pane"], { hidden: true })).shot))).not.toContain("pane");
});
