import { buildBodies } from "../bodies";
import { encodeChunk } from "../cache";
import { hashBytes } from "../common";
import { cos } from "../maths";
import { type Command, setBend, setBody, setKey, setNumberKey, setSettings, tickOfFrame } from "../shot";
import { makeTestWorkshop, runShot, shape, shotOf } from "../testing";
import { makeScene, rapierEngine, simulate } from ".";
import { type Checkpoint, encodeCheckpoint } from "./checkpoint";

const ground = [shape("ground", "ground", {}), setBody(["ground"], { kind: "passive" })];
const keyedNumber = (name: string, ...keys: readonly (readonly [frame: number, value: number])[]): Command[] =>
	keys.map(([frame, value]) => setNumberKey("base", name, tickOfFrame({ fps: 24, firstFrame: 1 }, frame), value));

test("a platform that grows by its keys lifts what stands on it, and what stands on it is never in it", async () => {
	// Its middle stays, so that its top rises from 0.1 to 0.6 m in a second and a half.
	const shot = shotOf(
		shape("base", "box", { width: 1, height: 0.2, depth: 1 }),
		...keyedNumber("height", [1, 0.2], [37, 1.2]),
		setBody(["base"], { kind: "animated" }),
		shape("crate", "box", { width: 0.3, height: 0.3, depth: 0.3 }, [0, 0.25, 0]),
		setBody(["crate"], { kind: "active" }),
	);
	const run = await runShot(shot, 60);
	expect(run.scene.count).toBeGreaterThan(run.scene.shown);
	expect(run.chunks.every(({ bodies }) => bodies === 2)).toBe(true);
	for (let frame = 2; frame <= 60; frame++) {
		// The top patch is thin but stretches too: its speed lags by its share, and the crate sinks in a little.
		const top = 0.1 + (0.5 * (Math.min(frame, 37) - 1)) / 36;
		expect(run.at("crate", frame)[1] - 0.15 - top).toBeGreaterThan(-0.002);
	}
	expect(run.at("crate", 60)[1]).toBeCloseTo(0.75, 2);
});

test("the end of a beam that bends carries a weight along its arc", async () => {
	const shot = shotOf(
		shape("base", "box", { width: 4, height: 0.2, depth: 0.6 }),
		setBend("base", { along: 0, toward: 1, angle: 0 }),
		...keyedNumber("bend", [1, 0], [49, 0.5]),
		setBody(["base"], { kind: "animated", friction: 1.5, hulls: 24 }),
		shape("weight", "box", { width: 0.16, height: 0.16, depth: 0.16 }, [1.85, 0.18, 0]),
		setBody(["weight"], { kind: "active", friction: 1.5 }),
	);
	const run = await runShot(shot, 49);
	for (const frame of [13, 25, 37, 49]) {
		const angle = (0.5 * (frame - 1)) / 48;
		const radius = 4 / angle;
		// Where 1.85 m along the beam and 0.18 m above its middle goes.
		const height = radius - (radius - 0.18) * cos(1.85 / radius);
		expect(Math.abs(run.at("weight", frame)[1] - height)).toBeLessThan(0.005);
	}
});

test("a boat that bends as it goes through a heap moves it aside; a run that goes on gives the same bytes", async () => {
	const shot = shotOf(
		...ground,
		shape("base", "box", { width: 2, height: 0.4, depth: 0.4 }, [-2, 0.3, 0]),
		setBend("base", { along: 0, toward: 2, angle: 0 }),
		...keyedNumber("bend", [1, 0], [25, 0.6]),
		setKey("base", 0, { translation: [-2, 0.3, 0] }),
		setKey("base", 1200, { translation: [0, 0.3, 0] }),
		setBody(["base"], { kind: "animated" }),
		...[0, 1, 2].flatMap((n) => [
			shape(`crate ${n}`, "box", { width: 0.3, height: 0.3, depth: 0.3 }, [0.2, 0.15, 0.35 * (n - 1)]),
			setBody([`crate ${n}`], { kind: "active" }),
		]),
		setSettings({ lastFrame: 48 }),
	);
	const workshop = await makeTestWorkshop();
	const scene = await makeScene(workshop, shot, (await buildBodies(workshop, shot)).bodies);
	const whole: string[] = [];
	const ends: string[] = [];
	let middle: Checkpoint | undefined;
	await simulate(scene, rapierEngine, {
		onChunk: (chunk, checkpoint) => {
			whole.push(hashBytes(encodeChunk(chunk)));
			if (chunk.firstFrame === 1) middle = checkpoint;
			else ends.push(hashBytes(encodeCheckpoint(checkpoint!)));
		},
	});
	const rest: string[] = [];
	await simulate(scene, rapierEngine, {
		from: middle!,
		onChunk: (chunk, checkpoint) => {
			rest.push(hashBytes(encodeChunk(chunk)));
			expect(ends).toContain(hashBytes(encodeCheckpoint(checkpoint!)));
		},
	});
	expect(rest.length).toBeGreaterThan(0);
	expect(rest).toEqual(whole.slice(1));
	const run = await runShot(shot);
	expect(run.at("crate 1", 48)[0]).toBeGreaterThan(0.9);
});
