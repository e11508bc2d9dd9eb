import fc from "fast-check";
import { canonicalJson, hashValue } from "../common";
import {
	addBodyRule,
	addObject,
	applyEdit,
	type Command,
	duplicateObjects,
	edit,
	emptyShot,
	invert,
	moveKey,
	parseShot,
	placeObject,
	removeFracture,
	removeKey,
	removeObjects,
	renameObject,
	renameShot,
	setBody,
	setFlags,
	setFracture,
	setFractureOption,
	setKey,
	setSettings,
	setShapeParameter,
	squash,
} from ".";

const ids = ["a", "b", "c"];
const id = fc.constantFrom(...ids);
const number = fc.double({ min: -10, max: 10, noNaN: true });
const vector = fc.tuple(number, number, number);
const tick = fc.integer({ min: 0, max: 5000 });

/** Ids that nothing has yet: the first one names the object. */
const numbered = (stem: string) => {
	let n = 0;
	return () => `${stem}${++n}`;
};

/** Any command on any object, there or not. */
const command: fc.Arbitrary<Command> = fc.oneof(
	id.map((object) =>
		addObject({ id: object, name: "Box", source: { kind: "shape", shape: "box", parameters: { width: 1, height: 1, depth: 1 } } }),
	),
	id.map((object) => removeObjects([object])),
	fc.tuple(id, vector).map(([from, offset]) => duplicateObjects([from], numbered(from), offset)),
	fc.tuple(id, fc.constantFrom("Block", "Buoy", "Pier/1")).map(([object, name]) => renameObject(object, name)),
	fc.tuple(id, vector).map(([object, translation]) => placeObject(object, { translation })),
	fc.tuple(id, number).map(([object, value]) => setShapeParameter(object, "width", value)),
	id.map((object) => setFracture(`f${object}`, { object, method: "voronoi", options: { count: 20 } })),
	fc.tuple(id, fc.integer({ min: 2, max: 99 })).map(([object, count]) => setFractureOption(`f${object}`, "count", count)),
	id.map((object) => removeFracture(`f${object}`)),
	fc
		.tuple(id, fc.constantFrom("active", "passive", undefined))
		.map(([object, kind]) => setBody([object, `f${object}:3`], { kind: kind as "active" })),
	fc.tuple(id, tick, vector).map(([object, at, translation]) => setKey(object, at, { translation })),
	fc.tuple(id, tick).map(([object, at]) => removeKey(object, at)),
	fc.tuple(id, tick, tick).map(([object, from, to]) => moveKey(object, from, to)),
	fc.tuple(id, fc.boolean()).map(([object, hidden]) => setFlags([object], { hidden })),
	fc.integer({ min: 1, max: 60 }).map((fps) => setSettings({ fps })),
	fc.constantFrom("One", "Two").map(renameShot),
	fc.constant(addBodyRule("r", "volume < 20 dm³", { kind: "none" })),
);

test("any edits, taken back, leave the very same document", () => {
	fc.assert(
		fc.property(fc.array(command, { maxLength: 25 }), (commands) => {
			const start = emptyShot("Start");
			const before = canonicalJson(start);
			let shot = start;
			const edits = commands.map((next) => {
				const result = edit(shot, next);
				shot = result.shot;
				return result.edit;
			});
			const after = canonicalJson(shot);
			expect(canonicalJson(applyEdit(start, squash("All", edits).patches))).toBe(after);
			const back = invert(squash("All", edits));
			const undone = applyEdit(shot, back.patches);
			expect(canonicalJson(undone)).toBe(before);
			expect(canonicalJson(applyEdit(undone, invert(back).patches))).toBe(after);
		}),
		{ numRuns: 200 },
	);
});

test("what edits make is always a valid shot", () => {
	fc.assert(
		fc.property(fc.array(command, { maxLength: 20 }), (commands) => {
			const shot = commands.reduce((at, next) => edit(at, next).shot, emptyShot("Start"));
			const parsed = parseShot(JSON.parse(JSON.stringify(shot)));
			expect(parsed.ok ? [] : parsed.problems).toEqual([]);
		}),
		{ numRuns: 100 },
	);
});

test("a command that changes nothing makes no patch", () => {
	const shot = emptyShot("Start");
	const result = edit(shot, renameShot("Start"));
	expect(result.edit.patches).toEqual([]);
	expect(result.shot).toBe(shot);
});

test("equal documents have equal hashes, whatever the order of their keys", () => {
	expect(hashValue({ b: 1, a: [1, 2, { d: -0, c: null }] })).toBe(hashValue({ a: [1, 2, { c: null, d: 0 }], b: 1 }));
	expect(hashValue({ a: 1, b: undefined })).toBe(hashValue({ a: 1 }));
	expect(() => hashValue({ a: Number.NaN })).toThrow(/not finite/);
});

test("names stay unique among siblings", () => {
	const add = (key: string) => addObject({ id: key, name: "Block", source: { kind: "shape", shape: "box", parameters: {} } });
	const shot = ["a", "b", "c"].reduce((at, key) => edit(at, add(key)).shot, emptyShot("Start"));
	expect(Object.values(shot.objects).map((item) => item.name)).toEqual(["Block", "Block 2", "Block 3"]);
});
