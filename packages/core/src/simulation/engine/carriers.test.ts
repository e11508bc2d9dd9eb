import { setBody, setSettings } from "../../shot";
import { shape, shotOf, startEngine } from "../../testing";
import { makeBodyState } from "./types";

test("bodies can be put together and taken apart in any order: each is on one carrier, stays where it is, and is met by others", async () => {
	const ids = ["a", "b", "c", "d", "e", "f"];
	const shot = shotOf(
		...ids.map((id, n) => shape(id, "box", { width: 1.02, height: 0.9, depth: 0.9 }, [n, 1, 0])),
		setBody(ids, { kind: "active" }),
		setSettings({ gravity: [0, 0, 0] }),
	);
	const { scene, engine } = await startEngine(shot);
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
	const held = (...bodies: number[]) => ({ bodies, anchored: true });
	// Each reaches a little into the next: whoever is on another carrier is met, whatever became of its colliders.
	const expectMeetings = () => {
		const pairs = [0, 1, 2, 3, 4].filter((i) => engine.carrier[i] !== engine.carrier[i + 1]).map((i) => [i, i + 1]);
		expect(engine.overlaps(0.01).map(({ a, b }) => [a, b])).toEqual(pairs);
	};
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
		[free(0, 1, 2, 3, 4, 5)],
		// Half of it stays on a carrier that has the name of one in the other half.
		[free(3, 4, 5), free(0, 1, 2)],
		[free(0, 1, 2, 3, 4, 5)],
		[held(0, 1, 2, 3, 4, 5)],
	]) {
		engine.regroup(groups);
		for (const { bodies } of groups) {
			expect(new Set(bodies.map((i) => engine.carrier[i])).size).toBe(1);
			expect([...engine.membersOf(engine.carrier[bodies[0]!]!)].sort()).toEqual([...bodies].sort());
		}
		expectPlaces();
		expectMeetings();
	}
	// What is left of what holds still need not be named.
	for (const [groups, left] of [
		[[free(3)], [0, 1, 2, 4, 5]],
		// The one whose name the carrier has.
		[[free(0)], [1, 2, 4, 5]],
		[
			[free(2), held(1)],
			[4, 5],
		],
		[[free(4, 5)], []],
	] as const) {
		engine.regroup(groups);
		for (const { bodies, anchored } of groups) {
			const c = engine.carrier[bodies[0]!]!;
			expect([...engine.membersOf(c), engine.isAnchored(c)]).toEqual([...bodies, anchored]);
		}
		for (const i of left) expect([...engine.membersOf(engine.carrier[i]!), engine.isAnchored(engine.carrier[i]!)]).toEqual([...left, true]);
		expectPlaces();
		expectMeetings();
	}
	expect([0, 1, 2, 3, 4, 5].filter((i) => !engine.moves(i))).toEqual([1]);
	engine.step();
	for (const [k, value] of where().entries()) expect(Math.abs(value - before[k]!)).toBeLessThan(0.02);
	engine.dispose();
});
