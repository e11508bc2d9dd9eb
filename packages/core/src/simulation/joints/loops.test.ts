import { type Vec3, vec3 } from "../../maths";
import { balanceLoops, type Edge } from "./loops";
import { spread } from "./spread";

/**
 * Rods of 1 kg and 0.2 m that hang between two posts and are pinned to each other, at rest: `pull` holds the ends apart, N. Each lies along
 * the mean of the forces at its ends, for then nothing turns it. Returns the forces at the pins on the rod before, or on the post, too.
 */
function garland(count: number, pull: number) {
	const weight = 9.81;
	const pins = Array.from({ length: count + 1 }, (_, j): Vec3 => [pull, weight * (j - count / 2), 0]);
	const rods = pins.slice(1).map((right, i) => vec3.scale(vec3.normalize(vec3.add(pins[i]!, right)), 0.1));
	const edges = pins.map(
		(_, j): Edge => ({
			// The rod after the pin comes first.
			ends: [j < count ? j : -1, j - 1],
			arms: [vec3.scale(rods[j] ?? vec3.ZERO, -1), rods[j - 1] ?? vec3.ZERO],
		}),
	);
	const smallest = spread(
		edges.map(({ ends }) => ends),
		(i) => (i >= 0 ? [0, weight, 0] : undefined),
	);
	return { edges, smallest, pins };
}

test.each([5, 20, 100, 500])("a garland whose ends are held apart by %s N: every pin bears what it does to half a percent", (pull) => {
	const { edges, smallest, pins } = garland(20, pull);
	const forces = balanceLoops(edges, smallest, (i) => (i >= 0 ? vec3.ZERO : undefined));
	// On what comes first, which is the rod to the right: it is pulled to the left.
	for (const [j, [x, y]] of pins.entries()) {
		expect(forces[j]![0] / -x).toBeCloseTo(1, 2);
		expect(Math.abs(forces[j]![1] + y)).toBeLessThan(0.005 * vec3.length(pins[j]!));
	}
});

test("along a tree nothing changes, and where moments tell nothing the smallest forces stay", () => {
	const tree: Edge[] = [
		{ ends: [0, -1], arms: [[0, 0.1, 0], vec3.ZERO] },
		{
			ends: [1, 0],
			arms: [
				[0, 0.1, 0],
				[0.3, -0.1, 0],
			],
		},
	];
	const forces: Vec3[] = [
		[0, 20, 0],
		[0, 10, 0],
	];
	expect(balanceLoops(tree, forces, () => vec3.ZERO)).toEqual(forces);
	// A taut row: whatever it is held apart by goes through its middles.
	const row = [0, 1, 2].map(
		(j): Edge => ({
			ends: [j < 2 ? j : -1, j - 1],
			arms: [
				[-0.1, 0, 0],
				[0.1, 0, 0],
			],
		}),
	);
	const carried: Vec3[] = [
		[0, 10, 0],
		[0, 0, 0],
		[0, -10, 0],
	];
	for (const [k, force] of balanceLoops(row, carried, (i) => (i >= 0 ? vec3.ZERO : undefined)).entries())
		expect(force[0]).toBeCloseTo(carried[k]![0], 6);
});
