import { expect, test } from "@jest/globals";
import type { BodyRow } from "@rubble/core/bodies";
import { csvOf } from "./wideColumns";

const body = (path: string, mass: number | undefined): BodyRow =>
	({
		path,
		mass: mass ?? 4.8,
		volume: 0.002,
		area: 0.1,
		size: 0.2,
		neighbours: 3,
		triangles: 12,
		settings: { kind: "active", density: 2400, friction: 0.5, bounce: 0.1, mass },
	}) as unknown as BodyRow;

test("the file has a line for each row, in SI units, and quotes what needs it", () => {
	const lines = csvOf([
		{ body: body("Pier/00001", undefined), height: 1.5 },
		{ body: body('Crate, "large"', 7), height: 0 },
	]).split("\r\n");
	expect(lines).toEqual([
		"name,kind,mass kg,density kg/m3,friction,bounce,volume m3,surface m2,size m,height m,touches,triangles",
		"Pier/00001,active,4.8,2400,0.5,0.1,0.002,0.1,0.2,1.5,3,12",
		'"Crate, ""large""",active,7,,0.5,0.1,0.002,0.1,0.2,0,3,12',
		"",
	]);
});
