import { expect, test } from "@jest/globals";
import { shownAs, spread } from "./spread";

const METRES = { unit: "m", factor: 1 };
const FIELDS = [
	["radius", { unit: "m", least: 0.001 }, METRES],
	["segments", { unit: "", whole: true, least: 3, most: 100 }, { unit: "", factor: 1 }],
	["height", { unit: "m", least: 0.001 }, METRES],
	["twist", { unit: "°" }, { unit: "°", factor: 1 }],
	["thickness", { unit: "m", least: 0.0001 }, { unit: "mm", factor: 1000 }],
] as const;

test("several numbers fill the field that they are typed into and those after it that have its unit", () => {
	expect(spread(FIELDS, "radius", ["0.2", "4"])).toEqual([
		["radius", 0.2],
		["height", 4],
	]);
	expect(spread(FIELDS, "height", ["4"])).toEqual([["height", 4]]);
	// There is no fourth length.
	expect(spread(FIELDS, "radius", ["0.2", "4", "9", "9"]).length).toBe(3);
});

test("each goes by what its own field shows: a thickness in mm takes 6 as 6 mm", () => {
	expect(spread(FIELDS, "radius", ["1", "1", "6"])).toEqual([
		["radius", 1],
		["height", 1],
		["thickness", 0.006],
	]);
	expect(spread(FIELDS, "radius", ["10 cm", "200 mm", "0.6 cm"])).toEqual([
		["radius", 0.1],
		["height", 0.2],
		["thickness", 0.006],
	]);
	expect(spread(FIELDS, "radius", ["1", "3 kg", "6"]).map(([name]) => name)).toEqual(["radius", "thickness"]);
});

test("each stays within the limits of its own field", () => {
	expect(spread(FIELDS, "segments", ["12.4"])).toEqual([["segments", 12]]);
	expect(spread(FIELDS, "radius", ["-1", "0"])).toEqual([
		["radius", 0.001],
		["height", 0.001],
	]);
	expect(spread(FIELDS, "nothing", ["1"])).toEqual([]);
});

test("small lengths are shown in millimetres, shares in percent", () => {
	expect(shownAs({ unit: "m" }, 0.006)).toEqual({ unit: "mm", factor: 1000 });
	expect(shownAs({ unit: "m" }, 2)).toEqual({ unit: "m", factor: 1 });
	expect(shownAs({ unit: "×", percent: true }, 0.5)).toEqual({ unit: "%", factor: 100 });
});
