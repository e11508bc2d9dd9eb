import { isDeepStrictEqual } from "node:util";
import { SAMPLES, sampleShot } from "../samples";
import {
	addConnector,
	addObject,
	connectorOf,
	edit,
	emptyShot,
	isStorable,
	parseChange,
	parseShot,
	parseShotGently,
	plainName,
	renameObject,
	replay,
	SHOT_VERSION,
	type Shot,
	setBody,
	setFlags,
} from ".";

const problemsOf = (value: unknown): string => {
	const parsed = parseShot(value);
	return parsed.ok ? "" : parsed.problems.map(({ message }) => message).join(" ");
};
const changed = (change: (shot: Record<string, any>) => void) => {
	const shot = JSON.parse(JSON.stringify(sampleShot("breakwater-strike")));
	change(shot);
	return problemsOf(shot);
};

test("every sample is a valid shot and survives writing and reading", () => {
	for (const { id } of SAMPLES) {
		const shot = sampleShot(id)!;
		const parsed = parseShot(JSON.parse(JSON.stringify(shot)));
		expect(parsed).toEqual({ ok: true, value: shot });
	}
});

test("foreign, damaged and newer documents are told apart in words", () => {
	expect(problemsOf(null)).toMatch(/not a shot/);
	expect(problemsOf([1, 2])).toMatch(/not a shot/);
	expect(problemsOf({ format: "other" })).toMatch(/not a shot of Mighty Rubble/);
	expect(problemsOf({ ...emptyShot("x"), version: SHOT_VERSION + 1 })).toMatch(/newer version/);
	expect(changed((shot) => (shot.settings.fps = "24"))).toMatch(/fps/);
	expect(changed((shot) => (shot.settings.lastFrame = -5))).toMatch(/last frame/);
	expect(changed((shot) => (shot.objects.buoy.translation = [0, Number.NaN, 0]))).toMatch(/translation/);
	expect(changed((shot) => (shot.objects.buoy.surprise = 1))).toMatch(/surprise/);
	expect(changed((shot) => (shot.objects.buoy.rotation = [1, 1, 1, 1]))).toMatch(/unit/);
	expect(changed((shot) => (shot.bodies.buoy.kind = "ghost"))).toMatch(/kind/);
});

test("records that refer to nothing are named", () => {
	expect(changed((shot) => (shot.objects.buoy.material = "cheese"))).toMatch(/“Buoy” uses a material/);
	expect(changed((shot) => (shot.objects.buoy.parent = "nobody"))).toMatch(/“Buoy” has a parent/);
	expect(changed((shot) => (shot.objects.buoy.parent = "buoy"))).toMatch(/its own ancestor/);
	expect(changed((shot) => delete shot.objects.breakwater)).toMatch(/fracture belongs to an object/);
	expect(changed((shot) => (shot.objects.buoy.name = "Breakwater"))).toMatch(/Two objects are called/);
});

test("a draft of version 0 is lifted to today's", () => {
	const { bodyRules: _, overrides: __, ...draft } = JSON.parse(JSON.stringify(emptyShot("Old")));
	const parsed = parseShot({ ...draft, version: 0 });
	expect(parsed).toEqual({ ok: true, value: emptyShot("Old") });
});

test("documents of the first version get scenery and worlds, and clustered breaks their curve", () => {
	const old = JSON.parse(JSON.stringify(sampleShot("breakwater-strike")));
	old.version = 1;
	delete old.scenery;
	delete old.worlds;
	const [id] = Object.keys(old.fractures);
	Object.assign(old.fractures[id!].options, { spread: "clustered", reach: 0.5, contrast: 20 });
	old.fractures[id!].again = [{ method: "voronoi", options: { reach: 0.2, contrast: 0.1 }, pieces: [], rule: "" }];
	const parsed = parseShot(old);
	if (!parsed.ok) throw new Error(parsed.problems[0]!.message);
	const { scenery, worlds, fractures, version } = parsed.value;
	expect([scenery.sky, worlds, version]).toEqual([1, {}, SHOT_VERSION]);
	const { density, reach, ...rest } = fractures[id!]!.options;
	expect(reach).toBeUndefined();
	expect(rest.spread).toBe("clustered");
	// Dense at a place, half of the way down at the old reach.
	expect((density as number[]).slice(0, 2)).toEqual([0, 1]);
	expect((density as number[])[5]).toBeCloseTo((1 + 1 / 20) / 2, 9);
	const sparse = fractures[id!]!.again![0]!.options.density as number[];
	expect(sparse[1]).toBeCloseTo(0.1, 9);
	expect(sparse[sparse.length - 1]).toBeGreaterThan(0.9);
});

test("motors and stops of older documents drive what they drove", () => {
	const shot = [
		addObject({ id: "lift", name: "Lift", source: { kind: "shape", shape: "box", parameters: {} } }),
		addConnector(
			"rail",
			connectorOf("slider", { a: "lift", options: { motor: "speed", speed: 2, limits: "between", least: -1, most: 3 } }),
		),
	].reduce((made, command) => edit(made, command).shot, emptyShot("Old"));
	const parsed = parseShot({ ...JSON.parse(JSON.stringify(shot)), version: 5 });
	if (!parsed.ok) throw new Error(parsed.problems[0]!.message);
	expect(parsed.value.connectors.rail!.options).toMatchObject({ motor: "speed", speed: -2, limits: "between", least: -3, most: 1 });
	expect(parseShot(JSON.parse(JSON.stringify(shot)))).toEqual({ ok: true, value: shot });
});

test("what is larger, smaller or deeper than anything here can be is refused", () => {
	expect(changed((shot) => (shot.settings.firstFrame = 3e9))).toMatch(/firstFrame/);
	expect(changed((shot) => (shot.settings.lastFrame = 2 ** 53))).toMatch(/lastFrame/);
	expect(changed((shot) => (shot.objects.buoy.translation = [1e9, 0, 0]))).toMatch(/translation/);
	expect(changed((shot) => (shot.objects.buoy.scale = [1e-300, 1, 1]))).toMatch(/millionth/);
	expect(changed((shot) => (shot.bodies.buoy.velocity = [1e300, 0, 0]))).toMatch(/velocity/);
	expect(changed((shot) => (shot.materials.concrete.density = 1e-300))).toMatch(/density/);
	expect(changed((shot) => (shot.objects.buoy.name = "a\0b"))).toMatch(/cannot be stored/);
	expect(changed((shot) => (shot.note = "half \ud83c"))).toMatch(/cannot be stored/);
	const [fracture] = Object.keys(sampleShot("breakwater-strike")!.fractures);
	expect(changed((shot) => (shot.fractures[fracture!].options = { deep: [[[[1]]]] }))).toMatch(/no option can be/);
	expect(changed((shot) => (shot.fractures[fracture!].options = { count: Number.POSITIVE_INFINITY }))).toMatch(/no option can be/);
	expect(changed((shot) => delete shot.objects.buoy.source)).toMatch(/source/);
});

test("ids that every object of the language has are no ids, and nothing refers to them", () => {
	for (const id of ["constructor", "toString", "hasOwnProperty", "prototype"]) {
		expect(changed((shot) => (shot.objects[id] = { ...shot.objects.buoy, name: "Other" }))).toMatch(/id that cannot be one/);
		expect(changed((shot) => (shot.objects.buoy.material = id))).toMatch(/no id/);
		expect(changed((shot) => (shot.objects.buoy.parent = id))).toMatch(/no id/);
	}
	expect(
		problemsOf(JSON.parse(JSON.stringify(emptyShot("x")).replace('"worlds":{}', '"worlds":{"__proto__":{"name":"W","gravity":[0,0,0]}}'))),
	).toMatch(/id that cannot be one/);
	// A kind of source that is none is not found among what objects have.
	expect(changed((shot) => (shot.objects.buoy.source = { kind: "constructor" }))).toMatch(/source/);
});

test("links to themselves and to nothing, and groups too deep, are named", () => {
	const link = { object: "buoy", property: "radius", source: "buoy", formula: "height", keeps: "middle", hidden: false };
	expect(changed((shot) => (shot.links = { l: link }))).toMatch(/“Buoy” follows itself/);
	expect(changed((shot) => (shot.links = { l: { ...link, source: "nobody" } }))).toMatch(/follows an object that is not/);
	expect(changed((shot) => (shot.links = { l: { ...link, object: "nobody" } }))).toMatch(/belongs to an object that is not/);
	const nested = (deep: number) => (shot: Record<string, any>) => {
		for (let n = 0; n < deep; n++)
			shot.objects[`g${n}`] = { ...shot.objects.buoy, source: { kind: "group" }, name: `G${n}`, parent: n > 0 ? `g${n - 1}` : null };
	};
	expect(changed(nested(64))).toBe("");
	expect(changed(nested(65))).toMatch(/more than 64 groups deep/);
	expect(changed(nested(5000))).toMatch(/more than 64 groups deep/);
});

test("a change is read as the whole would be, whatever it touches", () => {
	const before = sampleShot("breakwater-strike")!;
	const same = (next: Shot) => {
		const [change, whole] = [parseChange(before, next), parseShot(JSON.parse(JSON.stringify(next)))];
		expect(change.ok).toBe(whole.ok);
		if (!change.ok && !whole.ok) expect(change.problems[0]!.message).toBe(whole.problems[0]!.message);
	};
	same(before);
	same(edit(before, renameObject("buoy", "Float")).shot);
	same(edit(before, setFlags(["buoy"], { hidden: true })).shot);
	same(edit(before, setBody(["buoy"], { mass: -1 })).shot);
	same(edit(before, setBody(["buoy"], { velocity: [1e300, 0, 0] })).shot);
	same(replay(before, [{ op: "replace", path: ["objects", "buoy", "parent"], value: "nobody" }]).shot);
	same(replay(before, [{ op: "replace", path: ["settings", "fps"], value: "24" }]).shot);
	same(replay(before, [{ op: "replace", path: ["materials"], value: {} }]).shot);
	same(replay(before, [{ op: "remove", path: ["scenery"] }]).shot);
	same(replay(before, [{ op: "add", path: ["surprise"], value: 1 }]).shot);
	// Every field by itself, as a first record in it and as the last that goes.
	const keys = { translation: [], rotation: [] };
	const place = { translation: [0, 0, 0], rotation: [0, 0, 0, 1] };
	const records: Record<string, unknown> = {
		motions: {
			"f:1": { ...place, keys, baked: { take: "Take 1", body: { kind: "active" } } },
			"f:2": { ...place, keys, baked: { take: "T", body: null } },
		},
		worlds: { moon: { name: "Moon", gravity: [0, -1.6, 0] } },
		overrides: { "f:1": { kind: "animated" } },
		bodies: { buoy: { wake: { when: "region", region: "buoy", leastSpeed: 0 } } },
		links: { l: { object: "buoy", property: "radius", source: "breakwater", formula: "height", keeps: "middle", hidden: false } },
		bodyRules: [{ id: "r", rule: "pier", settings: { friction: 1 } }],
		keptPlaces: `asset:${"a".repeat(64)}`,
		colouring: { by: "speed", from: 0, to: 1, size: 1, seed: 1, moving: false, formula: "", stops: [[0, "#000000"]] },
	};
	for (const [field, value] of Object.entries(records)) {
		const { [field as keyof Shot]: _, ...without } = before;
		const made = { ...before, [field]: value } as Shot;
		expect([field, parseChange(before, made)]).toEqual([field, { ok: true, value: made }]);
		same(made);
		const gone = (["motions", "colouring"].includes(field) ? without : before) as Shot;
		expect([field, parseChange(made, gone).ok]).toEqual([field, true]);
	}
	expect(parseChange(before, replay(before, [{ op: "replace", path: [], value: 7 }]).shot).ok).toBe(false);
});

test("a long document lets others have their turn, and only what differs from a known one is looked at", async () => {
	const plain = sampleShot("breakwater-strike")!;
	const buoy = plain.objects.buoy!;
	const many = Object.fromEntries(Array.from({ length: 400 }, (_, i) => [`copy${i}`, { ...buoy, order: i, name: `Buoy ${i}` }]));
	const long = { ...plain, objects: { ...plain.objects, ...many } };
	const anew = JSON.parse(JSON.stringify(long));
	let turns = 0;
	const pause = async () => void turns++;
	expect(await parseShotGently(anew, pause)).toEqual({ ok: true, value: long });
	expect(turns).toBeGreaterThanOrEqual(8);
	turns = 0;
	const known = { shot: long, same: isDeepStrictEqual };
	expect(await parseShotGently(anew, pause, known)).toEqual({ ok: true, value: long });
	expect(turns).toBe(0);
	anew.objects.copy7.scale = [1, 0, 1];
	expect(await parseShotGently(anew, pause, known)).toEqual({
		ok: false,
		problems: [{ message: "The shot is not valid: objects.copy7.scale must not be zero." }, expect.anything()],
	});
});

test("what does not hold already may go on not to: an edit elsewhere is saved", () => {
	const before = sampleShot("breakwater-strike")!;
	const broken = {
		...before,
		links: { l: { object: "buoy", property: "x", source: "gone", formula: "x", keeps: "middle" as const, hidden: false } },
	};
	expect(parseShot(JSON.parse(JSON.stringify(broken))).ok).toBe(false);
	expect(parseChange(broken, edit(broken, renameObject("buoy", "Float")).shot).ok).toBe(true);
	const worse = replay(broken, [{ op: "replace", path: ["objects", "buoy", "material"], value: "cheese" }]).shot;
	expect(parseChange(broken, worse)).toMatchObject({ ok: false, problems: [{ message: expect.stringMatching(/uses a material/) }] });
});

test("patches are taken back by the inverse that replaying them gives, the whole document too", () => {
	const before = sampleShot("spring-scale")!;
	for (const patches of [
		edit(before, renameObject(Object.keys(before.objects)[0]!, "Other")).edit.patches,
		[{ op: "replace" as const, path: [], value: emptyShot("Other") }],
	]) {
		const { shot, inverse } = replay(before, patches);
		expect(shot).not.toEqual(before);
		expect(replay(shot, inverse).shot).toEqual(before);
	}
});

test("names out of files hold nothing that cannot be stored or shown, and are never cut in half", () => {
	expect(plainName("a/b\nc\0d")).toBe("a b c d");
	expect(plainName("half \ud83c")).toBe("half");
	expect(plainName("🌊".repeat(200), 3)).toBe("🌊🌊🌊");
	expect(isStorable(plainName(`${"x".repeat(119)}🌊`, 120))).toBe(true);
	expect(plainName("Волнолом")).toBe("Волнолом");
});
