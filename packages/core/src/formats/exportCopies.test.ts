import { readFileSync } from "node:fs";
import { WebIO } from "@gltf-transform/core";
import validator from "gltf-validator";
import { buildBodies, drawnMesh, lookOf, makeWorkshop, picturesOf } from "../bodies";
import { hashBytes } from "../common";
import { addArray, editMaterial, type Shot, setFracture, setMaterial } from "../shot";
import { loadSolids } from "../solid";
import { shape, shotOf } from "../testing";
import { exportItem, glb, readPicture, stillScene } from ".";

const bytes = new Uint8Array(readFileSync("packages/core/pictures/bricks.png"));
const asset = `asset:${hashBytes(bytes)}` as const;

async function fileOf(shot: Shot) {
	const workshop = makeWorkshop(await loadSolids(), {
		loadAsset: async () => Promise.reject(new Error("none")),
		loadPicture: async () => {
			const picture = readPicture(bytes);
			if (!picture.ok) throw new Error(picture.problems[0]!.message);
			return picture.value;
		},
	});
	const { bodies, problems } = await buildBodies(workshop, shot);
	expect(problems).toEqual([]);
	const pictures = new Map(picturesOf(shot, bodies).map((one) => [one, bytes] as const));
	const items = bodies.filter((body) => !shot.objects[body.object]!.hidden).map((body) => exportItem(shot, body, pictures));
	const file = await glb.write(stillScene("Test", items), {});
	const report = await validator.validateBytes(file);
	expect(report.issues.messages.filter(({ severity }) => severity < 2)).toEqual([]);
	return { bodies, root: (await new WebIO().readBinary(file as Uint8Array<ArrayBuffer>)).getRoot() };
}

test("copies in a file share one mesh and stand where the array has them, in their own sizes", async () => {
	const { bodies, root } = await fileOf(
		shotOf(
			shape("stone", "box", { width: 0.2, height: 0.2, depth: 0.2 }),
			addArray({
				id: "row",
				name: "Row",
				source: {
					kind: "array",
					sources: ["stone"],
					layout: "line",
					options: { count: 12, stepX: 0.5, smallest: 0.5, largest: 2, seed: 4 },
				},
			}),
		),
	);
	expect(root.listMeshes()).toHaveLength(1);
	const nodes = root.listNodes().filter((node) => node.getName().startsWith("Row/"));
	expect(nodes).toHaveLength(12);
	nodes.forEach((node, i) => {
		expect(node.getTranslation()[0]).toBeCloseTo(0.5 * i, 6);
		expect(node.getScale()[1]).toBeCloseTo(bodies[i + 1]!.scale, 6);
	});
});

test("masonry from a picture carries it on its outside faces, once for all pieces, and swapping it changes no names", async () => {
	const { root, bodies } = await fileOf(
		shotOf(
			shape("wall", "box", { width: 1.5, height: 1.1, depth: 0.2 }),
			setMaterial(["wall"], "concrete"),
			setFracture("f", { object: "wall", method: "picture", options: { picture: asset } }),
		),
	);
	expect(root.listTextures()).toHaveLength(1);
	expect(root.listTextures()[0]!.getImage()).toEqual(bytes);
	expect(root.listMaterials().map((material) => [material.getName(), material.getBaseColorTexture() !== null])).toEqual(
		expect.arrayContaining([
			["Concrete", true],
			["Raw concrete", false],
		]),
	);
	// Front corners lie where the picture has them: from the upper left, 1 is its whole width and height.
	for (const { mesh, offset } of bodies)
		for (let c = 0; c < mesh.triangles.length; c++) {
			if (mesh.inside[(c / 3) | 0] === 1) continue;
			const v = mesh.triangles[c]!;
			expect(mesh.uv[2 * c]).toBeCloseTo((mesh.positions[3 * v]! + offset[0] + 0.75) / 1.5, 4);
			expect(mesh.uv[2 * c + 1]).toBeCloseTo((0.55 - mesh.positions[3 * v + 1]! - offset[1]) / 1.1, 4);
		}
});

test("pictures of a material and of its inside go on from piece to piece, each in its own metres", async () => {
	const shot = shotOf(
		shape("wall", "box", { width: 2, height: 1, depth: 0.3 }),
		editMaterial("concrete", { texture: { picture: asset, size: 0.5 } }),
		editMaterial("rawConcrete", { texture: { picture: asset, size: 0.2 } }),
		setFracture("f", { object: "wall", method: "voronoi", options: { count: 8, seed: 2 } }),
	);
	const { bodies, root } = await fileOf(shot);
	expect(root.listTextures()).toHaveLength(1);
	for (const body of bodies) {
		const mesh = drawnMesh(body, lookOf(shot, body));
		for (let c = 0; c < mesh.triangles.length; c++) {
			const v = mesh.triangles[c]!;
			const size = mesh.inside[Math.floor(c / 3)] === 1 ? 0.2 : 0.5;
			const [x, y, z] = [0, 1, 2].map((k) => mesh.positions[3 * v + k]! + body.offset[k]!) as [number, number, number];
			expect([x, z, y].map((m) => Math.abs(m / size - mesh.uv[2 * c]!)).some((error) => error < 1e-4)).toBe(true);
		}
	}
	const plain = shotOf(shape("wall", "box", { width: 1, height: 1, depth: 1 }));
	expect(picturesOf(plain, (await fileOf(plain)).bodies)).toEqual([]);
});
