import { buildBodies, buildMesh, reportMesh } from "../bodies";
import { EventKind, type FrameStore, POSE_STRIDE, posesAt } from "../cache";
import { fromTo } from "../maths";
import { SAMPLES, sampleShot } from "../samples";
import {
	addArray,
	addBondSet,
	addConnector,
	type Command,
	type Connector,
	connectorOf,
	edit,
	type OptionValue,
	placeObject,
	type Shot,
	setBody,
	setFlags,
	setFracture,
	setKey,
	setSettings,
	setWorld,
	tickOfFrame,
} from "../shot";
import { joinEvents } from "../takes";
import { makeTestWorkshop, runShot, shape, shotOf } from "../testing";
import { type Finding, findStartOverlaps, makeScene, rapierEngine, runChecks, sunkAtEnd } from ".";
import { cutOff } from "./checks/cutOff";
import { twiceTheSubsteps } from "./checks/twiceTheSubsteps";

async function check(shot: Shot, without: readonly string[] = ["nothing-below"]): Promise<Finding[]> {
	const workshop = await makeTestWorkshop();
	const built = await buildBodies(workshop, shot);
	const scene = await makeScene(workshop, shot, built.bodies);
	const reports = new Map();
	for (const id of Object.keys(shot.objects)) {
		const mesh = await buildMesh(workshop, shot, id);
		if (mesh.ok && mesh.value.triangles.length > 0) reports.set(id, reportMesh(workshop, shot, id, mesh.value));
	}
	// Most of these stand on nothing: a check of its own, with tests of its own.
	return runChecks({ shot, built, reports, scene, overlaps: scene.count > 0 ? await findStartOverlaps(scene, rapierEngine) : [] }).filter(
		(finding) => !without.includes(finding.check),
	);
}

/** Applies the first fix of a finding. */
const fix = (shot: Shot, finding: Finding): Shot => edit(shot, finding.fixes[0]!.command).shot;
const cube = { width: 1, height: 1, depth: 1 };

test("two boxes that stand in each other are named with their depth, and the fix parts them", async () => {
	const shot = shotOf(
		shape("low", "box", cube, [0, 0.5, 0]),
		shape("high", "box", cube, [0, 1.4, 0]),
		setBody(["low", "high"], { kind: "active" }),
	);
	const [finding] = await check(shot);
	expect(finding).toMatchObject({ check: "start-overlap", about: ["low", "high"] });
	expect(finding!.message).toMatch(/100 mm|10 cm/);
	expect((await check(fix(shot, finding!))).map((other) => other.check)).toEqual([]);
});

test("pieces that only share faces do not overlap", async () => {
	const shot = shotOf(
		shape("block", "box", cube),
		setBody(["block"], { kind: "active" }),
		setFracture("f", { object: "block", method: "voronoi", options: { count: 40 } }),
	);
	expect(await check(shot)).toEqual([]);
});

test("a shot in which nothing can move says so, and the fix wakes it", async () => {
	const still = shotOf(shape("block", "box", cube), setBody(["block"], { kind: "passive" }));
	expect((await check(still)).map((finding) => finding.check)).toEqual(["nothing-wakes"]);
	const waits = shotOf(shape("block", "box", cube), setBody(["block"], { kind: "active", wake: { when: "touched", leastSpeed: 1 } }));
	const [finding] = await check(waits);
	expect(finding).toMatchObject({ check: "nothing-wakes", level: "error", about: ["block"] });
	expect(await check(fix(waits, finding!))).toEqual([]);
});

test("a simulation that starts after the last frame is told, even where keys move something", async () => {
	const late = shotOf(
		setSettings({ lastFrame: 24, startFrame: 30 }),
		shape("block", "box", { width: 1, height: 1, depth: 1 }, [0, 2, 0]),
		setBody(["block"], { kind: "active" }),
		shape("hook", "ball", { radius: 0.2 }, [3, 2, 0]),
		setKey("hook", 0, { translation: [3, 2, 0] }),
		setKey("hook", 1200, { translation: [-3, 2, 0] }),
		setBody(["hook"], { kind: "animated" }),
	);
	const [finding] = (await check(late)).filter((one) => one.check === "nothing-wakes");
	expect(finding!.message).toBe("The simulation starts at frame 30, after the last one.");
	const mended = edit(late, finding!.fixes[0]!.command).shot;
	expect((await check(mended)).filter((one) => one.check === "nothing-wakes")).toEqual([]);
});

test("a fast small ball against a thin pane is warned of, and more substeps are offered", async () => {
	const shot = shotOf(
		shape("pane", "panel", { width: 1, height: 1, thickness: 0.004 }),
		setBody(["pane"], { kind: "passive" }),
		shape("pellet", "ball", { radius: 0.01, detail: 2 }, [0, 0, 3]),
		setBody(["pellet"], { kind: "active", velocity: [0, 0, -30] }),
	);
	const [finding] = await check(shot);
	expect(finding).toMatchObject({ check: "tunnel", about: ["pellet", "pane"] });
	expect(finding!.message).toMatch(/25.00 cm|25 cm/);
	const mended = fix(shot, finding!);
	expect(mended.settings.stepsPerSecond).toBeGreaterThan(120);
	expect(await check(mended)).toEqual([]);
	expect(await check(edit(shot, setSettings({ stepsPerSecond: 1200 })).shot)).toEqual([]);
});

test("neighbours in a thin broken pane do not overlap, and are not said to", async () => {
	const shot = shotOf(
		shape("pane", "panel", { width: 1.2, height: 1.6, thickness: 0.004 }, [0, 0.8, 0]),
		setFracture("f", { object: "pane", method: "voronoi", options: { count: 150, seed: 7, spread: "random" } }),
		setBody(["pane"], { kind: "active" }),
	);
	expect((await check(shot)).filter((finding) => finding.check === "start-overlap")).toEqual([]);
});

test("pieces of one solid are not called overlapping, whatever their colliders; copies that stand in each other are", async () => {
	const wall = shotOf(
		shape("wall", "cup", { radius: 0.5, foot: 0.5, height: 0.6, wall: 0.05, segments: 32 }, [0, 0.3, 0]),
		setFracture("f", { object: "wall", method: "voronoi", options: { count: 6, seed: 2 } }),
		setBody(["wall"], { kind: "active", collider: "hull" }),
	);
	expect((await check(wall)).filter(({ check }) => check === "start-overlap")).toEqual([]);
	const copies = shotOf(
		shape("box", "box", { width: 0.4, height: 0.4, depth: 0.4 }),
		addArray({ id: "row", name: "Row", source: { kind: "array", sources: ["box"], layout: "line", options: { count: 3, stepX: 0.3 } } }),
		setBody(["row"], { kind: "active" }),
	);
	expect((await check(copies)).filter(({ check }) => check === "start-overlap")[0]?.message).toMatch(
		/Row\/0000\d stands .* in Row\/0000\d/,
	);
});

const grounded = (...commands: Command[]) => shotOf(shape("ground", "ground", {}), setBody(["ground"], { kind: "passive" }), ...commands);

test("what has nothing below is named, in each world by itself, and ground mends it", async () => {
	const shot = shotOf(shape("block", "box", cube, [0, 2, 0]), setBody(["block"], { kind: "active" }));
	const [finding] = await check(shot, []);
	expect(finding).toMatchObject({ check: "nothing-below", about: ["block"] });
	expect(await check(fix(shot, finding!), [])).toEqual([]);
	const two = grounded(
		shape("block", "box", cube, [0, 2, 0]),
		setWorld("w", { name: "Second", gravity: [0, -2, 0] }),
		setBody(["block"], { kind: "active", world: "w" }),
	);
	const [other] = await check(two, []);
	expect(other!.message).toMatch(/In “Second” nothing holds still/);
	expect(await check(fix(two, other!), [])).toEqual([]);
	// What hangs from the world does not fall.
	const hangs = addConnector("hook", connectorOf("pin", { a: "block", from: [0, 3, 0], to: [0, 3, 0] }));
	expect(await check(edit(shot, hangs).shot, [])).toEqual([]);
});

test("a shot without gravity, force or speed says that nothing has a reason to move", async () => {
	const still = grounded(
		shape("block", "box", cube, [0, 2, 0]),
		setBody(["block"], { kind: "active" }),
		setSettings({ gravity: [0, 0, 0] }),
	);
	const [finding] = await check(still, []);
	expect(finding).toMatchObject({ check: "weightless" });
	expect(await check(fix(still, finding!), [])).toEqual([]);
	expect(await check(edit(still, setBody(["block"], { spin: [0, 1, 0] })).shot, [])).toEqual([]);
});

test("things of a millimetre are too small for the usual substeps; a few crumbs among stones are not spoken of", async () => {
	const small = grounded(shape("bead", "ball", { radius: 0.001, detail: 2 }, [0, 0.1, 0]), setBody(["bead"], { kind: "active" }));
	const [finding] = await check(small, []);
	expect(finding).toMatchObject({ check: "too-small", about: ["bead"] });
	expect(finding!.message).toMatch(/2\.0 mm across/);
	expect(await check(fix(small, finding!), [])).toEqual([]);
	const mixed = edit(small, shape("a", "box", cube, [3, 1, 0])).shot;
	const more = edit(edit(mixed, shape("b", "box", cube, [6, 1, 0])).shot, setBody(["a", "b"], { kind: "active" })).shot;
	expect(await check(more, [])).toEqual([]);
});

test("passive things with keys and active ones with their exact mesh are called by their right names", async () => {
	const shot = grounded(
		shape("gate", "box", cube, [0, 0.5, 0]),
		setBody(["gate"], { kind: "passive" }),
		setKey("gate", 0, { translation: [0, 0.5, 0] }),
		setKey("gate", 1200, { translation: [0, 2, 0] }),
		shape("cup", "cup", { radius: 0.5, foot: 0.4, height: 0.8, wall: 0.05, segments: 24 }, [4, 0.5, 0]),
		setBody(["cup"], { kind: "active", collider: "mesh" }),
	);
	const found = (await check(shot, ["concave-hull", "start-overlap"])).map((finding) => finding.check);
	expect(found).toEqual(expect.arrayContaining(["passive-keys", "mesh-collider"]));
	const mended = (await check(shot, [])).filter(({ check }) => ["passive-keys", "mesh-collider"].includes(check)).reduce(fix, shot);
	expect((await check(mended, [])).map((finding) => finding.check)).not.toEqual(expect.arrayContaining(["passive-keys"]));
	expect(mended.bodies.cup!.collider).toBe("parts");
});

test("after a run: energy from nowhere, and bodies that shake on the spot, are found in the frames", async () => {
	const shot = grounded(shape("block", "box", cube, [0, 0.5, 0]), setBody(["block"], { kind: "active" }), setSettings({ lastFrame: 48 }));
	const { scene, store } = await runShot(shot);
	const built = await buildBodies(await makeTestWorkshop(), shot);
	const after = (run: FrameStore) => runChecks({ shot, built, reports: new Map(), scene, run }).map((finding) => finding.check);
	expect(after(store)).toEqual([]);
	const block = scene.ids.indexOf("block") * POSE_STRIDE;
	const tampered = (change: (poses: Float32Array, frame: number) => void): FrameStore => ({
		...store,
		chunks: store.chunks.map((chunk) => {
			const poses = chunk.poses.slice();
			for (let f = 0; f < chunk.frames; f++)
				change(poses.subarray(f * chunk.bodies * POSE_STRIDE, (f + 1) * chunk.bodies * POSE_STRIDE), chunk.firstFrame + f);
			return { ...chunk, poses };
		}),
	});
	const thrown = tampered((poses, frame) => {
		if (frame > 20) poses[block + 1]! += 1.5;
	});
	expect(after(thrown)).toEqual(["energy-grew"]);
	const shaking = tampered((poses, frame) => {
		poses[block]! += frame % 2 === 0 ? 0.006 : -0.006;
	});
	expect(after(shaking)).toEqual(["shivering"]);
});

test("a centre of mass that was moved out of its shape is found, and put back", async () => {
	const shot = grounded(shape("block", "box", cube, [0, 1, 0]), setBody(["block"], { kind: "active", centre: [0.9, 0, 0] }));
	const [finding] = await check(shot, []);
	expect(finding).toMatchObject({ check: "centre-outside", about: ["block"] });
	expect(await check(fix(shot, finding!), [])).toEqual([]);
	expect(await check(edit(shot, setBody(["block"], { centre: [0.4, 0, 0] })).shot, [])).toEqual([]);
});

test("a ton that keeps hammering a kilogram is found in what happened", async () => {
	const shot = grounded(
		shape("anvil", "box", cube, [0, 1.5, 0]),
		shape("nut", "box", { width: 0.1, height: 0.1, depth: 0.1 }, [0, 0.05, 0]),
		setBody(["anvil"], { kind: "active", mass: 1000 }),
		setBody(["nut"], { kind: "active", mass: 1 }),
	);
	const workshop = await makeTestWorkshop();
	const built = await buildBodies(workshop, shot);
	const scene = await makeScene(workshop, shot, built.bodies);
	const [anvil, nut] = [scene.ids.indexOf("anvil"), scene.ids.indexOf("nut")];
	const blows = (count: number) => ({
		frame: Int32Array.from({ length: count }, (_, i) => i + 10),
		kind: new Uint8Array(count).fill(EventKind.Contact),
		a: new Int32Array(count).fill(Math.min(anvil, nut)),
		b: new Int32Array(count).fill(Math.max(anvil, nut)),
		value: new Float32Array(count).fill(3),
		place: new Float32Array(3 * count),
	});
	const after = (count: number) =>
		runChecks({ shot, built, reports: new Map(), scene, events: blows(count) }).filter((finding) => finding.check === "mass-ratio");
	expect(after(3)).toEqual([]);
	const [finding] = after(20);
	expect(finding!.about).toEqual(["anvil", "nut"]);
	expect(finding!.message).toMatch(/1\.00 t.* 1,000 times lighter/);
	expect(fix(shot, finding!).settings.solverIterations).toBe(8);
});

test.each(SAMPLES.map(({ id }) => id))("the sample %s has nothing wrong, before it is run", async (id) => {
	expect(await check(sampleShot(id)!, [])).toEqual([]);
});

test.each(["breakwater-strike", "causeway-arch", "slipway-stack", "sign-letters"])(
	"the sample %s has nothing wrong after its run either: its heaps lie still",
	async (id) => {
		const shot = sampleShot(id)!;
		const { scene, store } = await runShot(shot);
		const built = await buildBodies(await makeTestWorkshop(), shot);
		const sunk = await sunkAtEnd(scene, rapierEngine, store);
		expect(sunk!.frame).toBe(shot.settings.lastFrame);
		expect(
			runChecks({ shot, built, reports: new Map(), scene, sunk, events: joinEvents(store), run: store }).map(({ message }) => message),
		).toEqual([]);
	},
	120_000,
);

const bonded = (options: Record<string, OptionValue>) => addBondSet("b", { name: "Mortar", options, changes: [], hidden: false });
const broken = [
	shape("block", "box", cube, [0, 0.5, 0]),
	setBody(["block"], { kind: "active" }),
	setFracture("f", { object: "block", method: "voronoi", options: { count: 12 } }),
	shape("ground", "ground", {}),
	setBody(["ground"], { kind: "passive" }),
];

test("bonds that tie nothing are named, and finding by closeness ties what only stands together", async () => {
	const shot = shotOf(
		shape("one", "box", cube, [0, 0.5, 0]),
		shape("two", "box", cube, [1, 0.5, 0]),
		setBody(["one", "two"], { kind: "active" }),
		bonded({}),
	);
	const [finding] = await check(shot);
	expect(finding).toMatchObject({ check: "bonds-tie-nothing" });
	expect(
		(await check(edit(fix(shot, finding!), { name: "", apply: (draft) => void (draft.bondSets.b!.options.among = "all") }).shot)).map(
			(f) => f.check,
		),
	).toEqual([]);
});

test("bonds that do not bear the weight they hold are named with their load; made stronger they do", async () => {
	const shot = shotOf(
		...broken,
		shape("beam", "box", cube, [0, 1.5, 0]),
		setBody(["beam"], { kind: "passive" }),
		bonded({ strength: "given", tension: 0.005, shear: 1, foot: "touching" }),
		// Hangs from the beam only: the ground is far.
		{ name: "", apply: (draft) => void (draft.objects.ground!.translation = [0, -3, 0]) },
	);
	const [finding] = await check(shot);
	expect(finding).toMatchObject({ check: "bonds-too-weak" });
	expect(finding!.message).toMatch(/%/);
	expect((await check(fix(shot, finding!))).map((f) => f.check)).toEqual([]);
});

test("what the ground holds by bonds that never break is said to be stuck for ever", async () => {
	const [finding] = await check(shotOf(...broken, bonded({ strength: "endless", foot: "touching" })));
	expect(finding).toMatchObject({ check: "bonds-never-move", level: "note" });
});

const joined = (kind: string, more: Partial<Connector>) => addConnector("c", connectorOf(kind, { name: "Hook", ...more }));

test("a connector that joins nothing, one far from its body, and a spring beyond the substeps are named", async () => {
	const two = [shape("one", "box", cube, [0, 0.5, 0]), shape("two", "box", cube, [3, 0.5, 0]), setBody(["one", "two"], { kind: "active" })];
	expect((await check(shotOf(...two, joined("pin", { a: "gone" })))).map((f) => f.check)).toEqual(["connector-apart"]);
	const far = shotOf(...two, joined("pin", { a: "one", b: "two", from: [0, 9, 0], to: [0, 9, 0] }));
	const [finding] = await check(far);
	expect(finding!.message).toContain("8.5 m");
	expect(await check(fix(far, finding!))).toEqual([]);
	const stiff = shotOf(...two, joined("spring", { a: "one", from: [0, 0.5, 0], to: [0, 2, 0], options: { stiffness: 2e7 } }));
	const [spring] = await check(stiff);
	expect(spring).toMatchObject({ check: "stiff-spring" });
	expect(await check(fix(stiff, spring!))).toEqual([]);
});

test("a connector whose ends are drawn apart is named with the worst frame; where it parts there is nothing to say", async () => {
	const hold = (id: string, b: string, at: [number, number, number], more: Record<string, OptionValue>) =>
		addConnector(id, connectorOf("pin", { name: `Pin ${id}`, a: "bead", b, from: at, to: at, options: more }));
	const find = async (more: Record<string, OptionValue>) => {
		const shot = shotOf(
			shape("bead", "box", { width: 0.2, height: 0.2, depth: 0.2 }, [0, 2, 0]),
			setBody(["bead"], { kind: "active" }),
			shape("hook", "box", { width: 0.2, height: 0.2, depth: 0.2 }, [0.2, 2, 0]),
			setBody(["hook"], { kind: "animated" }),
			...[6, 24].map((frame, k) => setKey("hook", tickOfFrame({ fps: 24, firstFrame: 1 }, frame), { translation: [0.2 + k, 2, 0] })),
			hold("one", "hook", [0.1, 2, 0], more),
			hold("other", "", [-0.1, 2, 0], more),
			setSettings({ lastFrame: 30 }),
		);
		const { scene, store } = await runShot(shot);
		const built = await buildBodies(await makeTestWorkshop(), shot);
		return runChecks({ shot, built, reports: new Map(), scene, run: store, events: joinEvents(store) }).filter(
			({ check }) => check === "drawn-apart",
		);
	};
	const [finding] = await find({});
	// A metre, half of it each.
	expect(finding!.message).toMatch(/^“Pin (one|other)” and 1 more are drawn apart by up to (50 cm|0\.5\d? m|5\d cm), at frame (2[4-9]|30)/);
	expect(finding!.fixes.map(({ label }) => label)).toEqual(["Twice the substeps", "Let it break at a load"]);
	expect(await find({ breaks: "load", force: 2000 })).toEqual([]);
});

test("what has sunk deep into something by the end of a run is named with its depth; rounding is not", async () => {
	const shot = shotOf(
		shape("floor", "box", { width: 4, height: 0.2, depth: 4 }, [0, -0.1, 0]),
		setBody(["floor"], { kind: "passive" }),
		shape("crate", "box", cube, [0, 0.6, 0]),
		setBody(["crate"], { kind: "active" }),
	);
	const { scene, store } = await runShot(shot, 24);
	const built = await buildBodies(await makeTestWorkshop(), shot);
	const find = async () => runChecks({ shot, built, reports: new Map(), scene, sunk: await sunkAtEnd(scene, rapierEngine, store) });
	expect(await find()).toEqual([]);
	posesAt(store, 24)![7 * scene.ids.indexOf("crate") + 1]! -= 0.05;
	const [finding] = await find();
	expect(finding).toMatchObject({ check: "sank-in", level: "warning" });
	expect(finding!.message).toMatch(/At frame 24 crate lies (5\.0 cm|50 mm) in floor/);
	expect(finding!.fixes.map(({ label }) => label)).toEqual(["Solve more exactly", "Twice the substeps"]);
});

test("substeps that were cut off while things gave way are told with their first frame", () => {
	const events = {
		frame: Int32Array.of(9, 11),
		kind: Uint8Array.of(7, 7),
		a: Int32Array.of(0, 0),
		b: Int32Array.of(1, 1),
		value: Float32Array.of(7, 7),
		place: new Float32Array(6),
	};
	const shot = shotOf(shape("wall", "box", cube), shape("ball", "box", cube));
	const scene = { ids: ["wall", "ball"], paths: ["wall", "ball"], count: 0, kind: new Uint8Array(0) } as never;
	const [finding] = cutOff.find({ shot, built: {} as never, reports: new Map(), scene, events });
	expect(finding!.message).toMatch(/In 2 substeps, the first in frame 9, .* to ball after 7 tries/);
	expect(cutOff.find({ shot, built: {} as never, reports: new Map(), scene })).toEqual([]);
});

test("things of two worlds that stand on each other are named, and the fix brings them together", async () => {
	const shot = shotOf(
		shape("ground", "ground", {}),
		shape("deck", "box", { width: 3, height: 0.2, depth: 3 }, [0, 0.1, 0]),
		shape("crate", "box", cube, [0, 0.7, 0]),
		shape("apart", "box", cube, [8, 3, 0]),
		setBody(["ground"], { kind: "passive" }),
		setBody(["deck"], { kind: "passive", world: "w" }),
		setBody(["crate"], { kind: "active" }),
		setBody(["apart"], { kind: "active", world: "w" }),
		setWorld("w", { name: "Tilted", gravity: [1, -9.6, 0] }),
	);
	const [finding] = (await check(shot)).filter((one) => one.check === "worlds-meet");
	expect(finding).toMatchObject({ about: ["crate", "deck"] });
	expect(finding!.message).toMatch(/different worlds/);
	expect((await check(fix(shot, finding!))).filter((one) => one.check === "worlds-meet")).toEqual([]);
});

test("flat ground is told of as long as it is flat", async () => {
	const shot = shotOf(
		shape("shore", "terrain", { width: 8, depth: 8, relief: 1, wave: 3, base: 0.5, cells: 16, seed: 3 }),
		setBody(["shore"], { kind: "passive", collider: "plain" }),
		shape("crate", "box", cube, [0, 3, 0]),
		setBody(["crate"], { kind: "active" }),
	);
	const [finding] = await check(shot);
	expect(finding).toMatchObject({ check: "plain-ground", about: ["shore"] });
	expect(await check(fix(shot, finding!))).toEqual([]);
});

describe("links that hang in each other by contacts alone", () => {
	const hang = (mass: number, ...more: Command[]) =>
		shotOf(
			shape("link", "torus", { radius: 0.1, wire: 0.025, segments: 20, sides: 8 }),
			addArray({
				id: "chain",
				name: "Chain",
				source: {
					kind: "array",
					sources: ["link"],
					layout: "line",
					options: { count: 5, stepX: 0, stepY: 0, stepZ: -0.13, turnX: 0, turnY: 0, turnZ: 90 },
				},
				translation: [0, 2, 0],
			}),
			placeObject("chain", { rotation: fromTo([0, 0, 1], [0, 1, 0]) }),
			setBody(["chain"], { kind: "active", mass: 2, collider: "parts" }),
			shape("buoy", "ball", { radius: 0.2, detail: 2 }, [0, 1.1, 0]),
			setBody(["buoy"], { kind: "active", mass }),
			addConnector("hook", connectorOf("pin", { a: "chain:0", from: [0, 2.1, 0], to: [0, 2.1, 0] })),
			addConnector("hero", connectorOf("pin", { a: "chain:4", b: "buoy", from: [0, 1.35, 0], to: [0, 1.35, 0] })),
			...more,
		);
	const alone = async (shot: Shot) => (await check(shot)).filter((finding) => finding.check === "contacts-alone");
	test("20 kg on links of 2 kg are carried", async () => expect(await alone(hang(20))).toEqual([]));
	test("100 kg need many more steps, or pins", async () => {
		const [finding] = await alone(hang(100));
		expect(finding!.message).toMatch(/5 links .* 2\.00 kg .* 100 kg \(buoy\).* 41 substeps a frame or more, 5 are set/);
		expect(finding!.fixes.map(({ label }) => label)).toEqual(["Pin each to the next", "41 substeps a frame"]);
		expect(await alone(fix(hang(100), finding!))).toEqual([]);
		expect(await alone(edit(hang(100), finding!.fixes[1]!.command).shot)).toEqual([]);
	});
	test("500 kg are too many for any steps", async () => {
		expect((await alone(hang(500)))[0]!.fixes.map(({ label }) => label)).toEqual(["Pin each to the next"]);
	});
});

test("a shot in which nothing is active offers what could move, and nothing where a still was kept", async () => {
	const shot = shotOf(
		shape("ground", "ground", {}),
		shape("link", "box", cube, [0, 0.5, 0]),
		shape("crate", "box", cube, [3, 0.5, 0]),
		setFlags(["link"], { hidden: true }),
		setBody(["ground"], { kind: "passive" }),
	);
	const [finding] = await check(shot);
	expect(finding).toMatchObject({ check: "nothing-wakes", about: ["crate"] });
	expect(finding!.fixes.map(({ label }) => label)).toEqual(["Make crate active"]);
	expect(fix(shot, finding!).bodies.crate).toMatchObject({ kind: "active" });
	const kept: Shot = { ...shot, keptPlaces: `asset:${"a".repeat(64)}` };
	const workshop = await makeTestWorkshop();
	const built = await buildBodies(workshop, shot);
	const scene = await makeScene(workshop, shot, built.bodies);
	expect(runChecks({ shot: kept, built, reports: new Map(), scene }).filter(({ check }) => check === "nothing-wakes")).toEqual([]);
});

test("what fell out of the scene is offered ground to fall on, once it lies there it is lost no more", async () => {
	const find = async (shot: Shot) => {
		const { scene, store } = await runShot(shot);
		const built = await buildBodies(await makeTestWorkshop(), shot);
		return runChecks({ shot, built, reports: new Map(), scene, run: store, events: joinEvents(store) }).filter(
			({ check }) => check === "lost",
		);
	};
	const falling = shotOf(
		shape("crate", "box", cube, [0, -2.5, 0]),
		setBody(["crate"], { kind: "active", velocity: [0, -20, 0] }),
		setSettings({ lastFrame: 96 }),
	);
	const [finding] = await find(falling);
	expect(finding!.message).toMatch(/^crate fell out of the scene, the first at frame \d+/);
	expect(finding!.fixes.map(({ label }) => label)).toEqual(["Add ground"]);
	const mended = fix(falling, finding!);
	expect(mended.objects.ground!.translation).toEqual([0, -3, 0]);
	// Beside ground that carries nothing: that it should; it is asked for by its name.
	const idle = edit(mended, setBody(["ground"], { kind: "none" })).shot;
	const [other] = await find(idle);
	expect(other!.fixes.map(({ label }) => label)).toEqual(["Let Ground carry"]);
	expect(await find(fix(idle, other!))).toEqual([]);
});

test("substeps are doubled only as far as a shot may have them", () => {
	const at = (stepsPerSecond: number) => shotOf(setSettings({ stepsPerSecond }));
	const [fix] = twiceTheSubsteps(at(600));
	expect(edit(at(600), fix!.command).shot.settings.stepsPerSecond).toBe(1200);
	expect(twiceTheSubsteps(at(720))).toEqual([]);
});
