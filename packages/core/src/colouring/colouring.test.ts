import { type Colouring, edit, emptyShot, type FullBodySettings, parseShot, type ShotSettings, setColouring } from "../shot";
import { ageAt, COLOUR_SOURCES, coloursMove, coveringPicture, makeColours, type Pixels, readColourFormula } from ".";

const base: Colouring = {
	by: "height",
	from: 0,
	to: 2,
	size: 0.5,
	seed: 3,
	moving: false,
	formula: "",
	stops: [
		[0, "#000000"],
		[0.5, "#ff0000"],
		[1, "#ffffff"],
	],
};
const body = {
	index: 4,
	place: [1, 1.5, 0] as const,
	start: [0, 1, 0] as const,
	speed: 3,
	volume: 0.1,
	mass: 20,
	seconds: 2,
	blow: 7,
	area: 0.6,
	neighbours: 5,
	age: 0,
};
const colour = (change: Partial<Colouring>, of: Partial<typeof body> = {}): number[] => {
	const made = makeColours({ ...base, ...change });
	if (!made.ok) throw new Error(made.problems[0]!.message);
	const into: [number, number, number] = [0, 0, 0];
	made.value({ ...body, ...of } as never, into);
	return into.map((v) => Number(v.toFixed(4)));
};

test("a gradient goes from stop to stop over its range, and stays at its ends", () => {
	expect(colour({})).toEqual([1, 0, 0]);
	expect(colour({}, { start: [0, 0.5, 0] as never })).toEqual([0.5, 0, 0]);
	expect(colour({ moving: true })).toEqual([1, 0.5, 0.5]);
	expect(colour({}, { start: [0, -3, 0] as never })).toEqual([0, 0, 0]);
	expect(colour({}, { start: [0, 9, 0] as never })).toEqual([1, 1, 1]);
	expect(colour({ by: "speed", from: 0, to: 6 })).toEqual([1, 0, 0]);
	// Turned round.
	expect(colour({ from: 2, to: 0 }, { start: [0, 2, 0] as never })).toEqual([0, 0, 0]);
});

test("a formula goes by what is known of a body, with its units checked", () => {
	expect(colour({ by: "formula", formula: "(height - height0) * 4 / seconds", from: 0, to: 2 })).toEqual([1, 0, 0]);
	const wrong = readColourFormula("height + speed");
	expect(wrong.ok ? "" : wrong.problems[0]!.message).toMatch(/m and m s\^-1|cannot be added/);
	expect(makeColours({ ...base, by: "formula", formula: "nothing + 1" }).ok).toBe(false);
});

test("noise is soft, chance is not, and both are the same every time", () => {
	const at = (x: number, by: Colouring["by"], index = 4) =>
		colour(
			{
				by,
				from: 0,
				to: 1,
				stops: [
					[0, "#000000"],
					[1, "#ffffff"],
				],
			},
			{ start: [x, 0, 0] as never, index },
		)[0]!;
	let steepest = 0;
	for (let n = 0; n < 200; n++) steepest = Math.max(steepest, Math.abs(at(0.01 * n, "noise") - at(0.01 * (n + 1), "noise")));
	expect(steepest).toBeLessThan(0.06);
	const chance = Array.from({ length: 50 }, (_, n) => at(0, "random", n));
	expect(new Set(chance).size).toBeGreaterThan(45);
	expect(Array.from({ length: 50 }, (_, n) => at(0, "random", n))).toEqual(chance);
});

test("a shot keeps its colouring, and every source is one of the document's", () => {
	const shot = edit(emptyShot("x"), setColouring(base)).shot;
	for (const { id } of COLOUR_SOURCES) {
		const read = parseShot(JSON.parse(JSON.stringify({ ...shot, colouring: { ...base, by: id } })));
		expect([id, read.ok && read.value.colouring?.by]).toEqual([id, id]);
	}
	expect(parseShot(JSON.parse(JSON.stringify({ ...shot, colouring: { ...base, stops: [] } }))).ok).toBe(false);
	expect(edit(shot, setColouring(null)).shot.colouring).toBeUndefined();
	expect([coloursMove(base), coloursMove({ ...base, moving: true }), coloursMove({ ...base, by: "speed" })]).toEqual([false, true, true]);
});

test("columns of the table of pieces and the hardest blow can be gone by, in formulas too", () => {
	expect(colour({ by: "mass", from: 0, to: 40 })).toEqual([1, 0, 0]);
	expect(colour({ by: "neighbours", from: 5, to: 10 })).toEqual([0, 0, 0]);
	expect(colour({ by: "blow", from: 0, to: 7 })).toEqual([1, 1, 1]);
	expect(colour({ by: "formula", formula: "volume / area", from: 0, to: 1 / 3 })).toEqual([1, 0, 0]);
	expect([coloursMove({ ...base, by: "mass", moving: true }), coloursMove({ ...base, by: "blow" })]).toEqual([false, true]);
});

test("a picture lies over the things as it is looked at, and goes on at its rim", () => {
	// Red, green / blue, white.
	const pixels: Pixels = { width: 2, height: 2, rgb: Uint8Array.from([255, 0, 0, 0, 255, 0, 0, 0, 255, 255, 255, 255]) };
	const lies = { picture: "asset:0" as const, seen: "front" as const, middle: [1, 1, 0] as const, width: 2 };
	const seen = (start: readonly number[], change: object = {}) => {
		const made = makeColours({ ...base, by: "picture", picture: { ...lies, ...change } }, pixels);
		const into: [number, number, number] = [0, 0, 0];
		if (made.ok) made.value({ ...body, start: start as never }, into);
		return made.ok ? into : made.problems[0]!.message;
	};
	expect([seen([0.5, 1.5, 0]), seen([1.5, 1.5, 3]), seen([0.5, 0.5, 0]), seen([1.5, 0.5, 0])]).toEqual([
		[1, 0, 0],
		[0, 1, 0],
		[0, 0, 1],
		[1, 1, 1],
	]);
	expect(seen([-9, 9, 0])).toEqual([1, 0, 0]);
	// From the right, what is farther from the viewer at the front is to the right: −z; from above, −z is up.
	expect(seen([0, 1.5, 0.5], { seen: "side", middle: [0, 1, 0] })).toEqual([1, 0, 0]);
	expect(seen([1.5, 0, -0.5], { seen: "above" })).toEqual([0, 1, 0]);
	expect(makeColours({ ...base, by: "picture" }, pixels)).toMatchObject({ ok: false });
	expect(
		coveringPicture("front", { width: 200, height: 100 }, [
			[0, 0, 0],
			[4, 3, 9],
		] as never),
	).toEqual({ middle: [2, 1.5, 4.5], width: 6 });
	expect(coveringPicture("above", { width: 200, height: 100 }, [])).toBeUndefined();
});

test("age counts from the first frame, from where the simulation starts, or from the frame in which it woke", () => {
	const at = (settings: Partial<ShotSettings>, wake: FullBodySettings["wake"], woken: number | undefined, frame: number) =>
		ageAt({ ...emptyShot("Ages").settings, ...settings }, wake, woken, frame);
	expect(at({ fps: 24 }, { when: "start" }, undefined, 25)).toBe(1);
	expect(at({ fps: 24, startFrame: 13 }, { when: "start" }, 13, 25)).toBe(0.5);
	expect(at({ fps: 24, startFrame: 13 }, { when: "start" }, 13, 12)).toBe(0);
	expect(at({ fps: 25 }, { when: "frame", frame: 6 }, 6, 31)).toBe(1);
	expect(at({}, { when: "frame", frame: 60 }, undefined, 31)).toBe(0);
});
