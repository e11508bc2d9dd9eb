import { setBody, setSettings } from "../../shot";
import { shape, shotOf, startEngine } from "../../testing";
import { type ContactPoint, makeBodyState } from "./types";

/** A crate 2 mm above a slab, falling at 0.1 m/s in steps of 1/480 s without weight. */
async function falling() {
	const shot = shotOf(
		shape("slab", "box", { width: 4, height: 0.4, depth: 4 }, [0, -0.2, 0]),
		setBody(["slab"], { kind: "passive" }),
		shape("crate", "box", { width: 0.4, height: 0.4, depth: 0.4 }, [0, 0.202, 0]),
		setBody(["crate"], { kind: "active", velocity: [0, -0.1, 0] }),
		setSettings({ gravity: [0, 0, 0], stepsPerSecond: 480 }),
	);
	const { scene, engine } = await startEngine(shot);
	const [slab, crate] = [scene.ids.indexOf("slab"), scene.ids.indexOf("crate")];
	const before = makeBodyState(scene.count);
	return {
		engine,
		slab,
		crate,
		step: () => {
			engine.readState(before);
			engine.remember(before);
			engine.step();
		},
		pointsOf: (body: number): ContactPoint[] => {
			const points: ContactPoint[] = [];
			engine.contactsWith(
				body,
				() => true,
				(_, point) => points.push(point),
			);
			return points;
		},
	};
}

test("contact points are the same from both ends, each in its own surface", async () => {
	const { engine, slab, crate, step, pointsOf } = await falling();
	step();
	const [above, below] = [pointsOf(crate), pointsOf(slab)];
	expect(above.length).toBe(4);
	expect(below.length).toBe(4);
	above.forEach(({ place, normal, distance, impulse }, k) => {
		expect(below[k]!.distance).toBe(distance);
		expect(below[k]!.impulse).toBe(impulse);
		expect(below[k]!.normal.map((n) => -n)).toEqual([...normal]);
		expect(normal[1]).toBeCloseTo(-1, 6);
		expect(distance).toBeCloseTo(0.002, 6);
		expect(place[1]).toBeCloseTo(0.002, 6);
		expect(below[k]!.place[1]).toBeCloseTo(0, 6);
		// One lies under the other.
		expect(Math.hypot(place[0] - below[k]!.place[0], place[2] - below[k]!.place[2])).toBeLessThan(1e-6);
	});
	engine.dispose();
});

test("what was read of a step is read anew after the next one", async () => {
	const { engine, crate, step, pointsOf } = await falling();
	for (let n = 0; n < 4; n++) {
		step();
		for (const { distance } of pointsOf(crate)) expect(distance).toBeCloseTo(0.002 - (n * 0.1) / 480, 6);
		expect(pointsOf(crate).length).toBe(4);
	}
	engine.dispose();
});
