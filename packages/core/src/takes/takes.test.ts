import { posesAt } from "../cache";
import { sampleShot } from "../samples";
import { edit, removeObjects, setBody, setSettings } from "../shot";
import { rapierEngine } from "../simulation";
import { runShot, shape, shotOf } from "../testing";
import { differences, overlapSeries, parseValues, restsFrom, settleShot, shotNumbers, sweep, takeSeries, withNumber } from ".";

const strike = sampleShot("breakwater-strike")!;

test("numbers of a shot have paths of names that are unique, and lie within their limits", () => {
	for (const name of [
		"breakwater-strike",
		"lamp-room-pane",
		"float-hopper",
		"slipway-stack",
		"causeway-arch",
		"spring-scale",
		"sign-letters",
	]) {
		const numbers = shotNumbers(sampleShot(name)!);
		expect(new Set(numbers.map(({ path }) => path)).size).toBe(numbers.length);
		for (const { path, value, least, most } of numbers) expect([path, value >= least && value <= most]).toEqual([path, true]);
	}
	const paths = shotNumbers(strike).map(({ path }) => path);
	expect(paths).toEqual(
		expect.arrayContaining(["bonds/Concrete/factor", "settings/gravity/height", "body/Buoy/mass", "material/Concrete/friction"]),
	);
});

test("every number can be set where its path says, and nothing else changes", () => {
	for (const number of shotNumbers(strike)) {
		const value = number.value === number.least ? number.most : number.least;
		const changed = withNumber(strike, number, value);
		expect(shotNumbers(changed).find(({ path }) => path === number.path)?.value).toBe(value);
		expect(withNumber(changed, number, number.value)).toEqual(withNumber(strike, number, number.value));
	}
});

test("a sweep over two numbers makes a named shot of each pair", () => {
	const made = sweep(strike, [
		{ path: "bonds/Concrete/factor", values: [0.1, 0.3] },
		{ path: "body/Buoy/mass", values: [500, 1000, 2000] },
	]);
	if (!made.ok) throw new Error(made.problems[0]!.message);
	expect(made.value.map(({ name }) => name).slice(0, 2)).toEqual([
		expect.stringMatching(/0.1.* · Mass 500 kg/),
		expect.stringMatching(/ · Mass 1,?000 kg/),
	]);
	expect(made.value.map(({ shot }) => [shot.bondSets["breakwater-bonds"]!.options.factor, shot.bodies.buoy!.mass])).toEqual([
		[0.1, 500],
		[0.1, 1000],
		[0.1, 2000],
		[0.3, 500],
		[0.3, 1000],
		[0.3, 2000],
	]);
	expect(made.value[5]!.changes).toEqual([
		{ path: "bonds/Concrete/factor", label: expect.stringMatching(/^Concrete: /), text: expect.stringContaining("0.3") },
		{ path: "body/Buoy/mass", label: "Buoy: Mass", text: expect.stringMatching(/2,?000 kg/) },
	]);
});

test("a sweep that does not fit says what and where", () => {
	const message = (path: string, values: number[]) => {
		const made = sweep(strike, [{ path, values }]);
		return made.ok ? "" : made.problems[0]!.message;
	};
	expect(message("bond/Concrete/factor", [1])).toMatch(/no number “bond\/Concrete\/factor”. Did you mean “bonds\/Concrete\/factor”/);
	expect(message("body/Buoy/mass", [-5])).toMatch(/Buoy: Mass lies between .* not -5 kg/);
	expect(message("settings/solverIterations", [2.5])).toMatch(/whole numbers, not 2.5/);
	expect(
		message(
			"body/Buoy/mass",
			Array.from({ length: 65 }, (_, i) => i + 1),
		),
	).toMatch(/65 takes; a sweep makes 64/);
	expect(message("body/Buoy/mass", [])).toMatch(/Name a number/);
});

test("values are read as lists and ranges, in the shown unit", () => {
	const read = (text: string, factor?: number) => {
		const values = parseValues(text, factor);
		return values.ok ? values.value : values.problems[0]!.message;
	};
	expect(read("0.5, 1, 2")).toEqual([0.5, 1, 2]);
	expect(read("1..5")).toEqual([1, 2, 3, 4, 5]);
	expect(read("0.2..1 in 5")).toEqual([0.2, 0.4, 0.6, 0.8, 1]);
	expect(read("3..1")).toEqual([3, 2, 1]);
	expect(read("50; 25", 100)).toEqual([0.5, 0.25]);
	expect(read("1, 1, 2")).toEqual([1, 2]);
	expect(read("1, x")).toMatch(/“x” is no number/);
	expect(read("")).toMatch(/with commas/);
});

test("what differs between shots is told by name, once, and nothing where they are alike", () => {
	const made = sweep(strike, [{ path: "body/Buoy/mass", values: [500, 900] }]);
	if (!made.ok) throw new Error("no sweep");
	const [a, b] = made.value.map(({ shot }) => shot) as [typeof strike, typeof strike];
	expect(differences([a, a])).toEqual([]);
	expect(differences([a, b])).toEqual([{ label: "Buoy: Mass", texts: ["500 kg", "900 kg"] }]);
	const without = edit(b, removeObjects(["davit"])).shot;
	const passive = edit(without, setBody(["buoy"], { kind: "passive" })).shot;
	const longer = edit(passive, setSettings({ lastFrame: 300 })).shot;
	const rows = differences([a, longer]);
	expect(rows).toEqual(
		expect.arrayContaining([
			{ label: "Object Davit", texts: ["there", "–"] },
			{ label: "Body Buoy", texts: ["set-up 1", "set-up 2"] },
			{ label: "Frames", texts: ["set-up 1", "set-up 2"] },
		]),
	);
});

test("how a take went: energy, who is awake, and when it rests", async () => {
	const shot = shotOf(
		shape("ground", "ground", {}),
		setBody(["ground"], { kind: "passive" }),
		shape("box", "box", { width: 0.4, height: 0.4, depth: 0.4 }, [0, 1, 0]),
		setBody(["box"], { kind: "active", mass: 10, bounce: 0 }),
	);
	const { store } = await runShot(shot, 60);
	const series = takeSeries(store);
	expect(series.energy).toHaveLength(60);
	// Falling freely: E = m g (h0 − h).
	const fallen = 0.5 * 9.81 * (6 / 24) ** 2;
	expect(series.energy[6]! / (10 * 9.81 * fallen)).toBeCloseTo(1, 1);
	const rest = restsFrom(series)!;
	expect(rest).toBeGreaterThan(10);
	expect(series.awake[rest - 2]).toBe(1);
	expect(series.awake.slice(rest - 1).every((n) => n === 0)).toBe(true);
	expect(restsFrom(takeSeries({ bodies: 1, chunks: [{ ...store.chunks[0]!, frames: 5 }] }))).toBeUndefined();
});

test("settling what is picked lets it fall onto everything else, and asks for something that can fall", () => {
	const shot = shotOf(
		shape("table", "box", { width: 2, height: 0.1, depth: 2 }),
		shape("cup", "box", { width: 0.2, height: 0.2, depth: 0.2 }, [0, 1, 0]),
		shape("plate", "box", { width: 0.3, height: 0.02, depth: 0.3 }, [0, 2, 0]),
		setBody(["plate"], { kind: "active", wake: { when: "frame", frame: 20 } }),
	);
	const settled = settleShot(shot, ["cup"]);
	if (!settled.ok) throw new Error(settled.problems[0]!.message);
	expect(Object.fromEntries(Object.entries(settled.value.bodies).map(([id, { kind, wake }]) => [id, [kind, wake]]))).toEqual({
		table: ["passive", undefined],
		cup: ["active", undefined],
		plate: ["passive", undefined],
	});
	expect(settled.value.settings.lastFrame).toBeGreaterThanOrEqual(20 * 24);
	const all = settleShot(shot, []);
	expect(all.ok && all.value.bodies.plate).toEqual({ kind: "active" });
	const none = settleShot(edit(shot, setBody(["plate"], { kind: "none" })).shot, []);
	expect(none.ok ? "" : none.problems[0]!.message).toMatch(/Pick what shall fall/);
});

test("overlaps are measured over a take: two that move through each other, as deep as they are", async () => {
	const cube = { width: 1, height: 1, depth: 1 };
	const shot = shotOf(
		shape("still", "box", cube, [0, 0, 0]),
		setBody(["still"], { kind: "passive" }),
		shape("comes", "box", cube, [2, 0.1, 0]),
		setBody(["comes"], { kind: "active" }),
		setSettings({ gravity: [0, 0, 0], lastFrame: 5 }),
	);
	const { scene, store } = await runShot(shot);
	const comes = scene.ids.indexOf("comes");
	[2, 1, 0.97, 0.8, 1.5].forEach((x, n) => {
		posesAt(store, n + 1)![7 * comes] = x;
	});
	const { frames, deepest } = await overlapSeries(scene, rapierEngine, store, 24);
	expect(frames).toEqual([1, 2, 3, 4, 5]);
	[0, 0, 0.03, 0.2, 0].forEach((depth, n) => {
		expect(deepest[n]).toBeCloseTo(depth, 3);
	});
	expect((await overlapSeries(scene, rapierEngine, store, 3)).frames).toEqual([1, 3, 5]);
	const aborted = { signal: { aborted: true } };
	await expect(overlapSeries(scene, rapierEngine, store, 3, aborted)).rejects.toThrow("cancelled");
});
