import { SAMPLES, sampleShot } from "../samples";
import { addConnector, addObject, connectorOf, edit, emptyShot, parseShot, SHOT_VERSION } from ".";

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
