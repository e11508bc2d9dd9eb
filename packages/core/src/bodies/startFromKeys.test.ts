import { fromAxisAngle } from "../maths";
import { edit, setBody, setFracture, setKey, setSettings, TICKS_PER_SECOND } from "../shot";
import { makeTestWorkshop, runShot, shape, shotOf } from "../testing";
import { buildBodies, rowOf, startFromKeys } from ".";

const TURN = Math.PI / 2;
const keyed = () =>
	shotOf(
		setSettings({ timeScale: 0.5, gravity: [0, 0, 0], lastFrame: 24 }),
		shape("a", "box", { width: 1, height: 0.2, depth: 0.2 }),
		setBody(["a"], { kind: "active" }),
		setKey("a", 0, { translation: [0, 1, 0], rotation: fromAxisAngle([0, 0, 1], 0) }),
		setKey("a", TICKS_PER_SECOND, { translation: [2, 1, 0], rotation: fromAxisAngle([0, 0, 1], TURN) }),
	);

test("two keys become a velocity and a spin in simulated seconds; then the keys are gone", async () => {
	const shot = keyed();
	const { bodies } = await buildBodies(await makeTestWorkshop(), shot);
	const made = edit(shot, startFromKeys(shot, "a", bodies.map(rowOf), TICKS_PER_SECOND / 2)).shot;
	// A second of the shot is half a second of the simulation.
	expect(made.bodies.a!.velocity!.map((x) => Number(x.toFixed(4)))).toEqual([4, 0, 0]);
	expect(made.bodies.a!.spin![2]).toBeCloseTo(2 * TURN, 3);
	expect(made.objects.a).toMatchObject({ translation: [0, 1, 0], keys: { translation: [], rotation: [] } });
	// It goes where its keys would have had it.
	const run = await runShot(made);
	expect(run.at("a", 24)[0]).toBeCloseTo((2 * 23) / 24, 2);
});

test("pieces of what turns each get the velocity of their own place", async () => {
	const shot = edit(keyed(), setFracture("f", { object: "a", method: "slices", options: { count: 4, axis: "x" } })).shot;
	const { bodies } = await buildBodies(await makeTestWorkshop(), shot);
	const made = edit(shot, startFromKeys(shot, "a", bodies.map(rowOf), 0)).shot;
	expect(Object.keys(made.overrides)).toHaveLength(4);
	for (const body of bodies) {
		const { velocity, spin } = made.overrides[body.id]!;
		// v = ω × r about the pivot, beside what all have.
		expect(velocity![1]).toBeCloseTo(spin![2] * body.offset[0], 2);
		expect(velocity![0]).toBeCloseTo(4, 1);
	}
});
