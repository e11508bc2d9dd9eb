import { buildBodies } from "../bodies";
import { setBody, setSettings } from "../shot";
import { makeTestWorkshop, runShot, shape, shotOf } from "../testing";
import { motionBounds } from ".";

const thrown = shotOf(
	setSettings({ lastFrame: 25, gravity: [0, -10, 0] }),
	shape("ball", "ball", { radius: 0.2, detail: 3 }, [0, 5, 0]),
	setBody(["ball"], { kind: "active", velocity: [3, 0, 0] }),
	shape("post", "box", { width: 1, height: 1, depth: 1 }, [-40, 0, 0]),
	setBody(["post"], { kind: "passive" }),
);

test("where things go is the box of the active ones' way, their size included; what holds still does not count", async () => {
	const { bodies } = await buildBodies(await makeTestWorkshop(), thrown);
	const { scene, store } = await runShot(thrown);
	const takeBodies = scene.ids.map((id) => ({ id }));
	const way = motionBounds(bodies, takeBodies, store)!;
	// A second of flight, from the first frame to the last: 3 m along, 5 m down.
	expect(way.min[0]).toBeCloseTo(-0.2, 3);
	expect(way.max[0]).toBeCloseTo(3.2, 2);
	expect(way.max[1]).toBeCloseTo(5.2, 3);
	expect(way.min[1]).toBeCloseTo(-0.2, 1);
	expect([way.min[2], way.max[2]]).toEqual([expect.closeTo(-0.2, 3), expect.closeTo(0.2, 3)]);
	const still = bodies.map((body) => ({ ...body, settings: { ...body.settings, kind: "passive" as const } }));
	expect(motionBounds(still, takeBodies, store)).toBeUndefined();
});
