import { expect, test } from "@jest/globals";
import { fromAxisAngle, rotate } from "@rubble/core/maths";
import { carried } from "./carried";

const rest = [0, 0, 0, 1] as const;
const quarter = fromAxisAngle([0, 1, 0], Math.PI / 2);

test("what is moved keeps its way to the others", () => {
	const pose = { translation: [3, 1, 0], rotation: quarter } as const;
	const moved = carried(pose, { translation: [1, 0, 0], rotation: rest }, { translation: [1, 2, -1], rotation: rest });
	expect(moved).toEqual({ translation: [3, 3, -1], rotation: quarter });
});

test("what is turned goes round the handles, and turns as they do", () => {
	const from = { translation: [1, 0, 0], rotation: rest } as const;
	const turned = carried({ translation: [3, 1, 0], rotation: rest }, from, { ...from, rotation: quarter });
	expect(turned.translation.map((v) => Number(v.toFixed(9)))).toEqual([1, 1, -2]);
	expect(rotate(turned.rotation, [1, 0, 0])[2]).toBeCloseTo(-1, 9);
});

test("the thing that the handles are on stands where they are", () => {
	const from = { translation: [1, 0, 0], rotation: quarter } as const;
	const to = { translation: [0, 5, 0], rotation: rest } as const;
	const own = carried(from, from, to);
	expect(own.translation).toEqual(to.translation);
	own.rotation.forEach((v, k) => {
		expect(v).toBeCloseTo(to.rotation[k]!, 12);
	});
});
