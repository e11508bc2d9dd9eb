import { buildBodies } from "../bodies";
import { addChunk, type Chunk, encodeChunk, type FrameStore, POSE_STRIDE, posesAt } from "../cache";
import { hashBytes } from "../common";
import { boxCorners, IDENTITY, quatAt, rotate } from "../maths";
import { addConnector, connectorOf, edit, type Shot, type ShotSettings, setBody, setSettings } from "../shot";
import { makeTestWorkshop, runShot, shape, shotOf } from "../testing";
import { type Checkpoint, decodeCheckpoint, type EngineFactory, encodeCheckpoint, makeScene, rapierEngine, simulate } from ".";

/** A ball of 100 mm that flies at some speed, over a floor. */
const flight = (speed: number, settings: Partial<ShotSettings> = {}): Shot =>
	shotOf(
		shape("floor", "ground", {}),
		setBody(["floor"], { kind: "passive" }),
		shape("ball", "ball", { radius: 0.05, detail: 3 }, [0, 2, 0]),
		setBody(["ball"], { kind: "active", velocity: [speed, 0, 0], collider: "sphere", linearDamping: 0 }),
		setSettings({ lastFrame: 12, ...settings }),
	);

async function run(shot: Shot, from?: Checkpoint) {
	const workshop = await makeTestWorkshop();
	const scene = await makeScene(workshop, shot, (await buildBodies(workshop, shot)).bodies);
	let steps = 0;
	let shortest = Number.POSITIVE_INFINITY;
	const counting: EngineFactory = async (...words) => {
		const engine = await rapierEngine(...words);
		const { step, setStep } = engine;
		return Object.assign(engine, {
			step() {
				steps++;
				step.call(engine);
			},
			setStep(seconds: number) {
				shortest = Math.min(shortest, seconds);
				setStep.call(engine, seconds);
			},
		});
	};
	let store: FrameStore = { bodies: scene.shown, chunks: [] };
	const chunks: Chunk[] = [];
	const checkpoints: Checkpoint[] = [];
	await simulate(scene, counting, {
		...(from && { from }),
		onChunk: (chunk, checkpoint) => {
			store = addChunk(store, chunk);
			chunks.push(chunk);
			if (checkpoint) checkpoints.push(decodeCheckpoint(encodeCheckpoint(checkpoint)));
		},
	});
	const ball = scene.ids.indexOf("ball");
	const at = (frame: number) => [...posesAt(store, frame)!.subarray(7 * ball, 7 * ball + 3)];
	return { steps, shortest, at, hashes: chunks.map((chunk) => hashBytes(encodeChunk(chunk))), checkpoints };
}

test("a step in which the ball would cross four times its thickness is done in four parts, and no other is", async () => {
	// 15 m/s are 125 mm in a step of 1/120 s, and a ball of 100 mm is 33 mm thick by its volume and surface; 11 frames are 55 steps.
	const fast = await run(flight(15, { mostParts: 8, gravity: [0, 0, 0] }));
	expect([fast.steps, fast.shortest]).toEqual([55 * 4, 1 / 480]);
	expect((await run(flight(15, { mostParts: 2, gravity: [0, 0, 0] }))).steps).toBe(55 * 2);
	const whole = await run(flight(15, { gravity: [0, 0, 0] }));
	expect([whole.steps, whole.shortest]).toEqual([55, Number.POSITIVE_INFINITY]);
	expect(fast.at(12)[0]).toBeCloseTo(15 * (11 / 24), 3);
	// Slow things are as they were, to the byte.
	const slow = await run(flight(1, { mostParts: 8, lastFrame: 6 }));
	expect(slow.hashes).toEqual((await run(flight(1, { lastFrame: 6 }))).hashes);
});

test("where there are connectors all steps are divided alike: they jerk when steps become shorter", async () => {
	const shot = edit(
		flight(1, { mostParts: 4, gravity: [0, 0, 0], lastFrame: 6 }),
		addConnector("pin", connectorOf("pin", { a: "ball" })),
	).shot;
	const { steps, shortest } = await run(shot);
	expect([steps, shortest]).toEqual([25 * 4, 1 / 480]);
});

test("free fall is nearer to its closed form by as much as steps are divided", async () => {
	const fallen = 0.5 * 9.81 * (11 / 24) ** 2;
	const off = async (settings: Partial<ShotSettings>) => Math.abs(2 - (await run(flight(15, settings))).at(12)[1]! - fallen);
	const [whole, divided] = [await off({}), await off({ mostParts: 4 })];
	// The engine's own error goes with the step; half a step times the speed reached is the most.
	expect(whole).toBeGreaterThan(0.003);
	expect(whole).toBeLessThan((0.5 / 120) * 9.81 * (11 / 24));
	expect(divided / whole).toBeCloseTo(0.25, 1);
});

test("a run of divided steps goes on from a checkpoint with the same bytes", async () => {
	const shot = flight(15, { mostParts: 8, lastFrame: 60 });
	const whole = await run(shot);
	expect(whole.hashes.length).toBeGreaterThan(1);
	const rest = await run(shot, whole.checkpoints[0]!);
	expect(rest.hashes).toEqual(whole.hashes.slice(1));
	expect(hashBytes(encodeCheckpoint(rest.checkpoints.at(-1)!))).toBe(hashBytes(encodeCheckpoint(whole.checkpoints.at(-1)!)));
});

test("the ends of a rod that spins count: divided, they hardly dip into the ground where it slams down", async () => {
	const rod = (settings: Partial<ShotSettings>) =>
		shotOf(
			shape("floor", "ground", {}),
			setBody(["floor"], { kind: "passive" }),
			shape("rod", "box", { width: 1.2, height: 0.03, depth: 0.05 }, [0, 1.5, 0]),
			setBody(["rod"], { kind: "active", collider: "hull", density: 2700, velocity: [1, -1.7, 0], spin: [2, 1.5, 16] }),
			setSettings({ lastFrame: 60, ...settings }),
		);
	const lowest = async (settings: Partial<ShotSettings>): Promise<number> => {
		const { scene, store } = await runShot(rod(settings));
		const offset = POSE_STRIDE * scene.ids.indexOf("rod");
		const heights = Array.from({ length: 60 }, (_, n) => {
			const pose = posesAt(store, n + 1)!.subarray(offset, offset + POSE_STRIDE);
			return boxCorners([0, 0, 0], [0.6, 0.015, 0.025], IDENTITY).map(
				(corner) => pose[1]! + rotate(quatAt(pose.subarray(3), 0), corner)[1],
			);
		});
		return Math.min(...heights.flat());
	};
	expect(await lowest({ mostParts: 4 })).toBeGreaterThan(-0.006);
	// Whole steps: the engine sees one end lie and the other one far away.
	expect(await lowest({})).toBeLessThan(-0.02);
});
