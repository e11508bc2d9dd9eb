import { encode } from "fast-png";
import { unzipSync } from "fflate";
import type { Object3D, Mesh as ThreeMesh } from "three";
import { MTLLoader } from "three/examples/jsm/loaders/MTLLoader.js";
import { OBJLoader } from "three/examples/jsm/loaders/OBJLoader.js";
import { buildBodies, picturesOf } from "../bodies";
import { posesAt } from "../cache";
import { rotate, type Vec3, vec3 } from "../maths";
import { type AssetRef, edit, editMaterial, type OptionValues, optionProblem, type Shot, setBody, setFracture } from "../shot";
import { makeTestWorkshop, runShot, shape, shotOf, type TestRun } from "../testing";
import { type ExportWish, exportTake, TAKE_FORMATS, writeTake } from ".";

const LAST = 12;
const shot: Shot = shotOf(
	shape("ground", "ground", {}),
	setBody(["ground"], { kind: "passive" }),
	shape("block", "box", { width: 1, height: 1, depth: 1 }, [0, 1.2, 0.5]),
	setBody(["block"], { kind: "active", spin: [1, 2, 0], velocity: [1, 0, 2] }),
	setFracture("f", { object: "block", method: "voronoi", options: { count: 4 } }),
	shape("crate", "box", { width: 0.4, height: 0.6, depth: 0.8 }, [3, 0.5, 0]),
	setBody(["crate"], { kind: "active" }),
);
let run: TestRun;
let bodies: Awaited<ReturnType<typeof buildBodies>>["bodies"];
beforeAll(async () => {
	run = await runShot(shot, LAST);
	bodies = (await buildBodies(await makeTestWorkshop(), shot)).bodies;
});

const scene = (wish: Partial<ExportWish> = {}, from = shot, pictures = new Map<AssetRef, Uint8Array>()) =>
	exportTake(
		{ shot: from, bodies, takeBodies: run.scene.ids.map((id, i) => ({ id, path: run.scene.paths[i]! })), store: run.store, pictures },
		{ range: { firstFrame: 1, lastFrame: LAST }, keys: { way: "every", frames: 1 }, ...wish },
	);
const formatOf = (id: string) => TAKE_FORMATS.find((one) => one.id === id)!;
const text = async (id: string, wish: Partial<ExportWish> = {}) => new TextDecoder().decode(await writeTake(formatOf(id), scene(wish)));
const filesOf = async (id: string, made = scene()) => unzipSync(await writeTake(formatOf(id), made));
const decoded = (bytes: Uint8Array | undefined) => new TextDecoder().decode(bytes);

/** Middle of a box around what another program reads of an OBJ file, by object. */
function middles(obj: string): Map<string, Vec3> {
	const found = new Map<string, Vec3>();
	new OBJLoader().parse(obj).traverse((node: Object3D) => {
		const { geometry } = node as ThreeMesh;
		if (!geometry) return;
		geometry.computeBoundingBox();
		const { min, max } = geometry.boundingBox!;
		found.set(node.name, [(min.x + max.x) / 2, (min.y + max.y) / 2, (min.z + max.z) / 2]);
	});
	return found;
}

describe("z up, in centimetres", () => {
	const options: OptionValues = { up: "z", unit: "cm" };
	const turned = ([x, y, z]: Vec3): Vec3 => [100 * x, -100 * z, 100 * y];

	test("OBJ: another program finds every piece where the same file in metres has it, turned and a hundred times as far", async () => {
		const [usual, other] = [await filesOf("obj-sequence"), await filesOf("obj-sequence", scene({ options }))];
		const name = `test_00${LAST}.obj`;
		const [here, there] = [middles(decoded(usual[name])), middles(decoded(other[name]))];
		expect([...there.keys()]).toEqual([...here.keys()]);
		expect(there.size).toBe(5);
		for (const [piece, place] of here) expect(vec3.length(vec3.subtract(there.get(piece)!, turned(place)))).toBeLessThan(0.001);
		expect(decoded(other[name])).toMatch(/^# Test, frame 12; centimetres, z up/);
	});

	test("CSV and JSON: a point of a piece that is turned and carried there is where the cache has it", async () => {
		const rows = (await text("csv", { options }))
			.trim()
			.split("\n")
			.slice(1)
			.map((line) => line.split(","));
		const read = JSON.parse(await text("json", { options }));
		expect(read.units).toEqual({ length: "cm", rotation: "quaternion xyzw", up: "z" });
		const poses = posesAt(run.store, LAST)!;
		const corner: Vec3 = [0.1, 0.2, 0.3];
		let compared = 0;
		for (const [i, path] of run.scene.paths.entries()) {
			const row = rows
				.find(([frame, , name]) => frame === String(LAST) && name === path)
				?.slice(3)
				.map(Number);
			if (!row) continue;
			const pose = Array.from(poses.subarray(7 * i, 7 * i + 7)) as [number, number, number, number, number, number, number];
			const world = vec3.add([pose[0], pose[1], pose[2]], rotate([pose[3], pose[4], pose[5], pose[6]], corner));
			const [x, y, z, ...turn] = row as unknown as [number, number, number, number, number, number, number];
			// In the file's own axes the point of the piece is turned likewise.
			const there = vec3.add([x, y, z], rotate(turn as [number, number, number, number], turned(corner)));
			expect(vec3.length(vec3.subtract(there, turned(world)))).toBeLessThan(0.001);
			const body = read.bodies.find(({ name }: { name: string }) => name === path);
			expect(body.translations.at(-1)).toEqual([x, y, z]);
			expect(body.rotations.at(-1)).toEqual(turn);
			compared++;
		}
		expect(compared).toBe(5);
	});

	test("PLY and JSON Lines say so in their heads, and places of events go along", async () => {
		const ply = (await filesOf("ply-sequence", scene({ options })))["test_0001.ply"]!;
		expect(decoded(ply.subarray(0, 200))).toMatch(/comment centimetres, z up/);
		const events = async (wish: Partial<ExportWish>) =>
			(await text("jsonl", wish))
				.trim()
				.split("\n")
				.map((line) => JSON.parse(line))
				.filter(({ event, at }) => event && at);
		const [usual, other] = [await events({}), await events({ options })];
		expect(other.map(({ at }) => at.map((value: number) => Math.round(value)))).toEqual(
			usual.map(({ at }) => turned(at).map((value) => Math.round(value))),
		);
	});
});

test("all in one: another program reads one mesh with as many faces", async () => {
	const faces = (files: Record<string, Uint8Array>) => decoded(files["test_0005.obj"]).match(/^f /gm)!.length;
	const [usual, merged] = [await filesOf("obj-sequence"), await filesOf("obj-sequence", scene({ options: { objects: "one" } }))];
	expect(middles(decoded(merged["test_0005.obj"])).size).toBe(1);
	expect(faces(merged)).toBe(faces(usual));
});

test("an OBJ sequence takes the pictures along, and its materials name them", async () => {
	const picture: AssetRef = "asset:0000000000000000000000000000000000000000000000000000000000000001";
	const bytes = encode({ width: 1, height: 1, data: Uint8Array.from([9, 120, 30]), channels: 3 });
	const painted = edit(shot, editMaterial("concrete", { texture: { picture, size: 0.5 } })).shot;
	expect(picturesOf(painted, bodies)).toEqual([picture]);
	const files = await filesOf("obj-sequence", scene({}, painted, new Map([[picture, bytes]])));
	const { materialsInfo } = new MTLLoader().parse(decoded(files["test.mtl"]), "");
	expect(materialsInfo.Concrete).toMatchObject({ map_kd: "test-picture-1.png" });
	expect(materialsInfo.Raw_concrete).not.toHaveProperty("map_kd");
	expect(files["test-picture-1.png"]).toEqual(bytes);
	// Faces name materials that are there, and have texture places.
	const obj = decoded(files["test_0001.obj"]);
	const used = new Set([...obj.matchAll(/^usemtl (.*)$/gm)].map(([, name]) => name!));
	expect([...used].sort()).toEqual(Object.keys(materialsInfo).sort());
	const { geometry } = new OBJLoader().parse(obj).getObjectByName("crate") as ThreeMesh;
	expect(geometry.getAttribute("uv").count).toBe(geometry.getAttribute("position").count);
});

test("only what is asked for is written: objects with their pieces, single pieces, and events that they took part in", async () => {
	const paths = (only: readonly string[]) => scene({ only }).items.map(({ path }) => path);
	expect(paths(["crate"])).toEqual(["crate"]);
	expect(paths(["block"])).toHaveLength(4);
	const piece = bodies.find(({ path }) => path === "block/00002")!.id;
	expect(paths([piece, "crate"])).toEqual(["block/00002", "crate"]);
	expect(scene({ only: ["crate"] }).tracks).toHaveLength(1);
	const about = scene({ only: ["crate"] }).events;
	expect(about.length).toBeLessThan(scene().events.length);
	expect(about.every(({ a, b }) => a === "crate" || b === "crate")).toBe(true);
	expect(() => scene({ only: ["ground"] })).toThrow(/Nothing of what is picked is to be seen/);
});

test("every format's defaults are among its choices, and what it does not know is told", () => {
	for (const format of TAKE_FORMATS)
		for (const spec of Object.values(format.options))
			expect(spec.kind === "choice" && spec.choices.some(({ id }) => id === spec.default)).toBe(true);
	expect(optionProblem(formatOf("obj-sequence"), { up: "z", unit: "mm", objects: "one" })).toBeUndefined();
	expect(optionProblem(formatOf("obj-sequence"), { up: "x" })).toMatch(/Up must be one of y, z/);
	expect(optionProblem(formatOf("glb"), { up: "z" })).toMatch(/GLB has no option “up”/);
});
