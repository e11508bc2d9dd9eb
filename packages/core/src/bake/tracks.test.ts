import fc from "fast-check";
import { NO_EVENTS, POSE_STRIDE } from "../cache";
import { fromEuler, radians, slerp } from "../maths";
import { setBody, setFracture } from "../shot";
import { runShot, shape, shotOf } from "../testing";
import { bake, type Track } from "./tracks";

/** Where a track's keys put the body at a frame, by the rules of glTF: straight and slerp. */
function sample(track: Track, frame: number): { translation: number[]; rotation: number[] } {
	const { frames, translations, rotations } = track;
	let k = 0;
	while (k + 1 < frames.length && frames[k + 1]! <= frame) k++;
	const next = Math.min(k + 1, frames.length - 1);
	const t = next === k ? 0 : (frame - frames[k]!) / (frames[next]! - frames[k]!);
	const at = (list: Float32Array, key: number, n: number) => [...list.subarray(n * key, n * key + n)];
	const [a, b] = [at(translations, k, 3), at(translations, next, 3)];
	return {
		translation: a.map((v, i) => v + (b[i]! - v) * t),
		rotation: [...slerp(at(rotations, k, 4) as never, at(rotations, next, 4) as never, t)],
	};
}

test("reduced keys stay within the tolerance that is asked for, and say how far off they are", async () => {
	const run = await runShot(
		shotOf(
			shape("ground", "ground", {}),
			setBody(["ground"], { kind: "passive" }),
			shape("block", "box", { width: 1, height: 1, depth: 1 }, [0, 1.2, 0]),
			setBody(["block"], { kind: "active", spin: [2, 1, 0] }),
			setFracture("f", { object: "block", method: "voronoi", options: { count: 12 } }),
		),
		72,
	);
	const bodies = [...run.scene.ids.keys()].filter((i) => run.scene.ids[i] !== "ground");
	for (const position of [0.001, 0.01, 0.1]) {
		const baked = bake(run.store, 1, 72, bodies, { way: "reduced", position, rotation: radians(1) });
		let worst = 0;
		for (const track of baked.tracks)
			for (let frame = 1; frame <= 72; frame++) {
				const poses = run.store.chunks.find((chunk) => frame < chunk.firstFrame + chunk.frames)!;
				const at = ((frame - poses.firstFrame) * run.scene.count + track.body) * POSE_STRIDE;
				const { translation } = sample(track, frame);
				worst = Math.max(worst, Math.hypot(...translation.map((v, k) => v - poses.poses[at + k]!)));
			}
		expect(worst).toBeLessThanOrEqual(position * 1.0001);
		expect(baked.error.position).toBeCloseTo(worst, 5);
		expect(baked.error.keys).toBeLessThan(baked.error.fullKeys);
	}
});

test("a key at every frame is off by nothing, every third frame by what is said", async () => {
	const run = await runShot(
		shotOf(shape("ball", "ball", { radius: 0.5, detail: 2 }, [0, 9, 0]), setBody(["ball"], { kind: "active" })),
		25,
	);
	const every = bake(run.store, 1, 25, [0], { way: "every", frames: 1 });
	expect(every.error).toMatchObject({ position: 0, keys: 25, fullKeys: 25 });
	const third = bake(run.store, 1, 25, [0], { way: "every", frames: 3 });
	expect([...third.tracks[0]!.frames]).toEqual([1, 4, 7, 10, 13, 16, 19, 22, 25]);
	// A parabola between keys three frames apart leaves its chord by g t1 t2 / 2.
	expect(third.error.position).toBeCloseTo((9.81 * (1 / 24) * (2 / 24)) / 2, 3);
});

test("rotations never take the long way between two keys", () => {
	fc.assert(
		fc.property(fc.array(fc.double({ min: -3, max: 3, noNaN: true }), { minLength: 4, maxLength: 12 }), (angles) => {
			const frames = angles.length;
			const poses = new Float32Array(frames * POSE_STRIDE);
			angles.forEach((angle, i) => {
				const q = fromEuler([angle, angle / 2, 0]);
				const sign = i % 2 === 0 ? 1 : -1; // the same rotations, written on both sides
				poses.set([0, 0, 0, ...q.map((v) => v * sign)], i * POSE_STRIDE);
			});
			const chunk = {
				firstFrame: 1,
				frames,
				bodies: 1,
				poses,
				contacts: new Uint32Array(frames),
				awake: new Uint32Array(frames),
				energy: new Float32Array(frames),
				joints: 0,
				loads: new Float32Array(0),
				events: NO_EVENTS,
			};
			const { rotations } = bake({ bodies: 1, chunks: [chunk] }, 1, frames, [0], { way: "every", frames: 1 }).tracks[0]!;
			for (let k = 1; k < frames; k++) {
				let dot = 0;
				for (let c = 0; c < 4; c++) dot += rotations[4 * k + c]! * rotations[4 * (k - 1) + c]!;
				expect(dot).toBeGreaterThanOrEqual(-1e-6);
			}
		}),
	);
});

test("a body that never moves gets one key", async () => {
	const run = await runShot(shotOf(shape("post", "box", { width: 1, height: 1, depth: 1 }), setBody(["post"], { kind: "passive" })), 30);
	const baked = bake(run.store, 1, 30, [0], { way: "reduced", position: 0.001, rotation: 0.01 });
	expect(baked.tracks[0]!.frames).toHaveLength(1);
	expect(baked.error.position).toBe(0);
});
