import { setBody, setSettings } from "../../shot";
import { shape, shotOf, startEngine } from "../../testing";
import { makeBodyState } from "./types";

/** A ball just above a slab, falling at 1 m/s in steps of 1/480 s: 2 mm each. */
async function falling(snapshot?: Uint8Array) {
	const shot = shotOf(
		shape("slab", "box", { width: 4, height: 0.4, depth: 4 }, [0, -0.2, 0]),
		setBody(["slab"], { kind: "passive" }),
		shape("ball", "ball", { radius: 0.4, detail: 3 }, [0, 0.401, 0]),
		setBody(["ball"], { kind: "active", velocity: [0, -1, 0], collider: "sphere", bounce: 0 }),
		setSettings({ gravity: [0, 0, 0], stepsPerSecond: 480 }),
	);
	const { scene, engine } = await startEngine(shot, snapshot);
	const [slab, ball] = [scene.ids.indexOf("slab"), scene.ids.indexOf("ball")];
	const state = makeBodyState(scene.count);
	return {
		engine,
		slab,
		ball,
		/** One step; how fast it is and where its lowest point is then, mm. */
		step: () => {
			engine.remember(state);
			engine.step();
			engine.readState(state);
			return { speed: state.velocity[3 * ball + 1]!, low: 1000 * (state.position[3 * ball + 1]! - 0.4) };
		},
		start: () => engine.readState(state),
	};
}

test("what is muted for a step is pushed in the next one", async () => {
	const { engine, slab, ball, step, start } = await falling();
	start();
	engine.mute([[slab, ball]]);
	for (let n = 0; n < 3; n++) expect(step().speed).toBeCloseTo(-1, 5);
	engine.mute([]);
	const { speed, low } = step();
	expect(low).toBeLessThan(-4);
	expect(speed).toBeGreaterThan(-0.2);
	engine.dispose();
});

test("a snapshot knows what was muted in its last step", async () => {
	const { engine, slab, ball, step, start } = await falling();
	start();
	engine.mute([[slab, ball]]);
	for (let n = 0; n < 3; n++) step();
	const snapshot = engine.snapshot();
	engine.mute([]);
	const went = step();
	const again = await falling(snapshot);
	again.start();
	expect(again.step()).toEqual(went);
	again.engine.dispose();
	engine.dispose();
});
