import { Kind, type SimScene } from "./scene";
import { makeStillState, showStill } from "./still";

/** One body of 0.4 m that has rested for long. */
const scene = {
	count: 1,
	kind: [Kind.Active],
	restSpeed: [0.1],
	size: [0.4],
	settings: { fps: 24, timeScale: 1 },
} as unknown as SimScene;
const resting = { anchor: new Float32Array(7), frames: Uint8Array.of(48) };
const UPRIGHT = [0, 0, 0, 1] as const;
const shownAt = (still: ReturnType<typeof makeStillState>, place: readonly number[], rest = resting): number[] => {
	const poses = Float32Array.from(place);
	showStill(scene, rest, still, poses);
	return Array.from(poses);
};

test("what trembles by a millimetre and a degree is shown where it came to rest", () => {
	const still = makeStillState(1);
	const first = shownAt(still, [1, 0.2, 3, ...UPRIGHT]);
	for (let frame = 0; frame < 20; frame++) {
		const way = frame % 2 === 0 ? 0.001 : -0.001;
		const half = 0.009 * Math.sign(way);
		expect(shownAt(still, [1 + way, 0.2 + way, 3, half, 0, 0, Math.sqrt(1 - half * half)])).toEqual(first);
	}
});

test("what rises slowly out of what it lay in too deep is followed, and so is what turns", () => {
	const still = makeStillState(1);
	shownAt(still, [0, 0.2, 0, ...UPRIGHT]);
	let shown: number[] = [];
	for (let frame = 1; frame <= 10; frame++) {
		const half = 0.01 * frame;
		shown = shownAt(still, [0, 0.2 + 0.001 * frame, 0, 0, half, 0, -Math.sqrt(1 - half * half)]);
	}
	// No further behind than half a hundredth of its size, and 0.04 rad.
	expect(shown[1]!).toBeCloseTo(0.21 - 0.002, 6);
	expect(Math.abs(shown[4]!)).toBeCloseTo(0.1 - 0.02, 3);
	expect(Math.hypot(...shown.slice(3))).toBeCloseTo(1, 6);
});

test("what has left its place is shown where it is", () => {
	const still = makeStillState(1);
	shownAt(still, [0, 0.2, 0, ...UPRIGHT]);
	const place = [0, 0.199, 0.0005, ...UPRIGHT];
	expect(shownAt(still, place, { ...resting, frames: Uint8Array.of(3) })).toEqual(Array.from(Float32Array.from(place)));
});
