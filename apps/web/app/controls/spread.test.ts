import { expect, test } from "@jest/globals";
import { spread } from "./spread";

const FIELDS = [
	["radius", { unit: "m", least: 0.001 }],
	["segments", { unit: "", whole: true, least: 3, most: 100 }],
	["height", { unit: "m", least: 0.001 }],
	["twist", { unit: "°" }],
] as const;

test("several numbers fill the field that they are typed into and those after it that have its unit", () => {
	expect(spread(FIELDS, "radius", [0.2, 4])).toEqual([
		["radius", 0.2],
		["height", 4],
	]);
	expect(spread(FIELDS, "height", [4])).toEqual([["height", 4]]);
	// There is no third length.
	expect(spread(FIELDS, "radius", [0.2, 4, 9]).length).toBe(2);
});

test("each stays within the limits of its own field", () => {
	expect(spread(FIELDS, "segments", [12.4])).toEqual([["segments", 12]]);
	expect(spread(FIELDS, "radius", [-1, 0])).toEqual([
		["radius", 0.001],
		["height", 0.001],
	]);
	expect(spread(FIELDS, "nothing", [1])).toEqual([]);
});
