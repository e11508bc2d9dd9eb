import { buildBodies } from "../bodies";
import { POSE_STRIDE, posesAt } from "../cache";
import { edit, setBody, setFracture } from "../shot";
import { makeScene } from "../simulation";
import { makeTestWorkshop, runShot, shape, shotOf } from "../testing";
import { carryOver } from ".";

const broken = (count: number) =>
	shotOf(
		shape("ground", "ground", {}),
		setBody(["ground"], { kind: "passive" }),
		shape("block", "box", { width: 1, height: 1, depth: 1 }, [0, 1.5, 0]),
		setFracture("f", { object: "block", method: "voronoi", options: { count, seed: 4 } }),
		setBody(["block"], { kind: "active" }),
		shape("ball", "ball", { radius: 0.2, detail: 3 }, [3, 1, 0]),
		setBody(["ball"], { kind: "active" }),
	);

test("fine pieces move with the coarse one in which they lie, whole things with themselves", async () => {
	const [rough, fine] = [broken(6), broken(60)];
	const workshop = await makeTestWorkshop();
	const run = await runShot(rough, 24);
	const coarse = { shot: rough, bodies: (await buildBodies(workshop, rough)).bodies, ids: run.scene.ids, store: run.store };
	const built = await buildBodies(workshop, fine);
	const scene = await makeScene(workshop, fine, built.bodies);
	const made = carryOver(coarse, { shot: fine, bodies: built.bodies, scene });
	if (!made.ok) throw new Error(made.problems[0]!.message);
	expect([made.value.carried, made.value.left]).toEqual([61, 0]);
	const poseOf = (id: string, frame: number) => {
		const at = scene.ids.indexOf(id) * POSE_STRIDE;
		return Array.from(posesAt(made.value.store, frame)!.subarray(at, at + 3));
	};
	expect(poseOf("ball", 20)).toEqual(run.at("ball", 20));
	// Pieces of one coarse piece keep their distances to each other; the coarse run has nearly all of the volume to follow.
	const pieces = scene.ids.filter((id) => id.startsWith("f:"));
	const apart = (frame: number) => {
		const [a, ...rest] = pieces.map((id) => poseOf(id, frame));
		return rest.map((b) => Math.hypot(...b.map((v, k) => v - a![k]!)));
	};
	const [before, after] = [apart(1), apart(24)];
	const kept = before.filter((distance, k) => Math.abs(distance - after[k]!) < 1e-4).length;
	expect(kept).toBeGreaterThan(2);
	expect(kept).toBeLessThan(59);
	// As a whole it falls as the coarse one did: the mean heights agree.
	const mean = (values: readonly number[]) => values.reduce((sum, v) => sum + v, 0) / values.length;
	const fell = mean(pieces.map((id) => poseOf(id, 1)[1]! - poseOf(id, 12)[1]!));
	const wanted = mean(run.scene.ids.filter((id) => id.startsWith("f:")).map((id) => run.at(id, 1)[1] - run.at(id, 12)[1]));
	expect(Math.abs(fell - wanted)).toBeLessThan(0.02);
});

test("a take with nothing to follow is refused in words", async () => {
	const shot = edit(broken(6), setBody(["block", "ball"], { kind: "none" })).shot;
	const workshop = await makeTestWorkshop();
	const run = await runShot(edit(shot, setBody(["ground"], { kind: "passive" })).shot, 2);
	const fine = broken(20);
	const built = await buildBodies(workshop, fine);
	const scene = await makeScene(workshop, fine, built.bodies);
	const coarse = { shot, bodies: [], ids: run.scene.ids, store: run.store };
	const made = carryOver(coarse, { shot: fine, bodies: built.bodies, scene });
	expect(made.ok ? "" : made.problems[0]!.message).toMatch(/None of the bodies/);
});
