import { buildBodies } from "../../bodies";
import { setBody, setSettings } from "../../shot";
import { makeTestWorkshop, shape, shotOf } from "../../testing";
import { makeScene, rapierEngine } from "..";
import { makeBodyState } from "./types";

test("bodies can be put together and taken apart in any order: each is on one carrier, and stays where it is", async () => {
	const ids = ["a", "b", "c", "d", "e", "f"];
	const shot = shotOf(
		...ids.map((id, n) => shape(id, "box", { width: 0.9, height: 0.9, depth: 0.9 }, [n, 1, 0])),
		setBody(ids, { kind: "active" }),
		setSettings({ gravity: [0, 0, 0] }),
	);
	const workshop = await makeTestWorkshop();
	const built = await buildBodies(workshop, shot);
	const scene = await makeScene(workshop, shot, built.bodies);
	const engine = await rapierEngine(scene, new Uint8Array(scene.count));
	const where = () => {
		const state = makeBodyState(scene.count);
		engine.readState(state);
		return [...state.position];
	};
	const before = where();
	const expectPlaces = () => {
		for (const [k, value] of where().entries()) expect(value).toBeCloseTo(before[k]!, 5);
	};
	const free = (...bodies: number[]) => ({ bodies, anchored: false });
	// The group of 0 moves to another carrier, and another one comes to sit on that of a body that is elsewhere.
	for (const groups of [
		[free(0, 1, 2, 3)],
		[free(1, 2, 3), free(0)],
		[free(4, 5)],
		[free(2, 3), free(1)],
		[free(0, 4, 5), free(1)],
		[free(2), free(3)],
		[free(0), free(4), free(5)],
		[free(0, 1, 2, 3, 4, 5)],
		[free(5, 4, 3), free(2, 1, 0)],
		[free(0), free(1), free(2)],
		[free(3), free(4), free(5)],
		// 2 is left alone on its own carrier, which stands where 1 does.
		[free(0, 1, 2, 3, 4, 5)],
		[free(1, 2, 3, 4, 5), free(0)],
		[free(3, 4, 5), free(1, 2)],
		[free(2), free(1)],
	]) {
		engine.regroup(groups);
		for (const { bodies } of groups) {
			expect(new Set(bodies.map((i) => engine.carrier[i])).size).toBe(1);
			expect([...engine.membersOf(engine.carrier[bodies[0]!]!)].sort()).toEqual([...bodies].sort());
		}
		expectPlaces();
	}
	engine.step();
	expectPlaces();
	engine.dispose();
});
