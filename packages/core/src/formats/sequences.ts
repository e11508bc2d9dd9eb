import { eightBits } from "../colouring";
import { triangleCount } from "../mesh";
import type { Material } from "../shot";
import { fileStem, frameStem } from "./names";
import { worldPositions } from "./posed";
import { bytesOf, float } from "./text";
import type { ExportItem, ExportScene, SequenceFormat } from "./types";

/** Wavefront OBJ, one file for each frame with everything in its world place, and one list of materials. */
export const objSequence: SequenceFormat = {
	id: "obj-sequence",
	label: "OBJ sequence",
	extension: "obj",
	mime: "model/obj",
	help: "A mesh file for each frame, named with its number; every piece a named object",
	shared: (scene) => [{ name: `${fileStem(scene.name)}.mtl`, bytes: bytesOf(materialFile(materialNames(scene))) }],
	frame: (scene, frame) => {
		const lines = [`# ${scene.name}, frame ${frame}; metres, y up`, `mtllib ${fileStem(scene.name)}.mtl`];
		for (const { item, faces } of linesOf(scene)) {
			const p = worldPositions(scene, item, frame);
			lines.push(`o ${item.path.replace(/\s/g, "_")}`);
			// Colours behind the place are no part of the old standard, but most programs read them.
			const colour = item.colourAt ? ` ${item.colourAt(frame).map(float).join(" ")}` : "";
			for (let v = 0; v < p.length; v += 3) lines.push(`v ${float(p[v]!)} ${float(p[v + 1]!)} ${float(p[v + 2]!)}${colour}`);
			lines.push(faces);
		}
		return { name: `${frameStem(scene, frame)}.obj`, bytes: bytesOf(`${lines.join("\n")}\n`) };
	},
};

/** What is the same in every frame: texture places, materials, faces. Made once for a scene. */
const sameLines = new WeakMap<ExportScene, readonly { readonly item: ExportItem; readonly faces: string }[]>();

function linesOf(scene: ExportScene): readonly { readonly item: ExportItem; readonly faces: string }[] {
	const known = sameLines.get(scene);
	if (known) return known;
	const materials = materialNames(scene);
	let vertex = 1;
	let corner = 1;
	const made = scene.items.map((item) => {
		const { uv, triangles, positions } = item.mesh;
		const lines: string[] = [];
		// Texture files count v upwards.
		for (let c = 0; c < uv.length; c += 2) lines.push(`vt ${float(uv[c]!)} ${float(1 - uv[c + 1]!)}`);
		const at = (c: number) => (uv.length > 0 ? `${triangles[c]! + vertex}/${corner + c}` : `${triangles[c]! + vertex}`);
		for (const { material, faces } of sides(item)) {
			if (faces.length > 0) lines.push(`usemtl ${materials.get(material)}`);
			for (const f of faces) lines.push(`f ${at(3 * f)} ${at(3 * f + 1)} ${at(3 * f + 2)}`);
		}
		vertex += positions.length / 3;
		corner += uv.length / 2;
		return { item, faces: lines.join("\n") };
	});
	sameLines.set(scene, made);
	return made;
}

/** Binary PLY, one mesh for each frame; a vertex says which object of the list it belongs to, and its colour. */
export const plySequence: SequenceFormat = {
	id: "ply-sequence",
	label: "PLY sequence",
	extension: "ply",
	mime: "application/octet-stream",
	help: "One binary mesh for each frame, with colours and a number for every piece",
	shared: () => [],
	frame: (scene, frame) => {
		const vertices = scene.items.reduce((sum, { mesh }) => sum + mesh.positions.length / 3, 0);
		const faces = scene.items.reduce((sum, { mesh }) => sum + triangleCount(mesh), 0);
		const head = plyHead(scene, vertices, faces);
		const bytes = new Uint8Array(head.length + 19 * vertices + 13 * faces);
		const view = new DataView(bytes.buffer);
		bytes.set(head);
		let at = head.length;
		scene.items.forEach((item, n) => {
			const p = worldPositions(scene, item, frame);
			const colour =
				item.colourAt?.(frame).map(eightBits) ?? [1, 3, 5].map((k) => Number.parseInt(item.outside.colour.slice(k, k + 2), 16));
			for (let v = 0; v < p.length; v += 3) {
				for (let k = 0; k < 3; k++) view.setFloat32(at + 4 * k, p[v + k]!, true);
				bytes.set(colour, at + 12);
				view.setInt32(at + 15, n, true);
				at += 19;
			}
		});
		let base = 0;
		for (const { mesh } of scene.items) {
			for (let c = 0; c < mesh.triangles.length; c += 3) {
				bytes[at] = 3;
				for (let k = 0; k < 3; k++) view.setInt32(at + 1 + 4 * k, base + mesh.triangles[c + k]!, true);
				at += 13;
			}
			base += mesh.positions.length / 3;
		}
		return { name: `${frameStem(scene, frame)}.ply`, bytes };
	},
};

const plyHead = ({ items }: ExportScene, vertices: number, faces: number): Uint8Array =>
	bytesOf(
		[
			"ply",
			"format binary_little_endian 1.0",
			"comment metres, y up",
			...items.map(({ path }, n) => `comment piece ${n} ${path}`),
			`element vertex ${vertices}`,
			...["x", "y", "z"].map((axis) => `property float ${axis}`),
			...["red", "green", "blue"].map((channel) => `property uchar ${channel}`),
			"property int piece",
			`element face ${faces}`,
			"property list uchar int vertex_indices",
			"end_header\n",
		].join("\n"),
	);

/** Faces of an item by their material. */
function sides({ mesh, outside, inside }: ExportItem): { material: Material; faces: number[] }[] {
	const all = Array.from({ length: triangleCount(mesh) }, (_, f) => f);
	const open = (f: number) => mesh.inside[f] === 1;
	return [
		{ material: outside, faces: all.filter((f) => !open(f)) },
		{ material: inside, faces: all.filter(open) },
	];
}

function materialNames({ items }: ExportScene): Map<Material, string> {
	const names = new Map<Material, string>();
	const taken = new Set<string>();
	for (const material of items.flatMap(({ outside, inside }) => [outside, inside])) {
		if (names.has(material)) continue;
		const wanted = material.name.replace(/\s/g, "_");
		let name = wanted;
		for (let n = 2; taken.has(name); n++) name = `${wanted}_${n}`;
		taken.add(name);
		names.set(material, name);
	}
	return names;
}

const materialFile = (materials: ReadonlyMap<Material, string>): string =>
	[...materials]
		.map(([{ colour, roughness, metalness, opacity }, name]) => {
			const rgb = [1, 3, 5].map((k) => float(Number.parseInt(colour.slice(k, k + 2), 16) / 255)).join(" ");
			return `newmtl ${name}\nKd ${rgb}\nd ${float(opacity)}\nPr ${float(roughness)}\nPm ${float(metalness)}\n`;
		})
		.join("\n");
