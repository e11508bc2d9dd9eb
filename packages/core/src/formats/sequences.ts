import { eightBits } from "../colouring";
import { triangleCount } from "../mesh";
import type { Described, Material } from "../shot";
import { fileStem, frameStem } from "./names";
import { pictureExtension } from "./picture";
import { worldPositions } from "./posed";
import { SPACE_OPTIONS, spaceOf } from "./space";
import { bytesOf, float } from "./text";
import type { ExportItem, ExportScene, NamedFile, SequenceFormat } from "./types";

const OBJ_OPTIONS: Described["options"] = {
	...SPACE_OPTIONS,
	objects: {
		kind: "choice",
		label: "Objects",
		help: "How the file is divided",
		default: "each",
		choices: [
			{ id: "each", label: "Each piece", help: "Every piece is an object with its name" },
			{ id: "one", label: "One", help: "All merged into one mesh" },
		],
	},
};

/** Wavefront OBJ, one file for each frame with everything in its world place, and one list of materials with their pictures. */
export const objSequence: SequenceFormat = {
	id: "obj-sequence",
	colours: "frames",
	label: "OBJ sequence",
	extension: "obj",
	mime: "model/obj",
	help: "A mesh file for each frame, named with its number, and one list of materials with their pictures",
	options: OBJ_OPTIONS,
	shared: (scene) => {
		const materials = namedMaterials(scene);
		const list: NamedFile = { name: `${fileStem(scene.name)}.mtl`, bytes: bytesOf(materialFile(materials)) };
		const pictures = new Map(materials.flatMap(({ file, picture }) => (file && picture ? [[file, picture] as const] : [])));
		return [list, ...[...pictures].map(([name, bytes]) => ({ name, bytes }))];
	},
	frame: (scene, frame) => {
		const { up, unit } = spaceOf(scene);
		const lines = [`# ${scene.name}, frame ${frame}; ${UNIT_NAMES[unit]}, ${up} up`, `mtllib ${fileStem(scene.name)}.mtl`];
		const merged = scene.options.objects === "one";
		if (merged) lines.push(`o ${fileStem(scene.name)}`);
		for (const { item, faces } of linesOf(scene)) {
			const p = worldPositions(scene, item, frame);
			if (!merged) lines.push(`o ${item.path.replace(/\s/g, "_")}`);
			// Colours behind the place are no part of the old standard, but most programs read them.
			const colour = item.colourAt ? ` ${item.colourAt(frame).map(float).join(" ")}` : "";
			for (let v = 0; v < p.length; v += 3) lines.push(`v ${float(p[v]!)} ${float(p[v + 1]!)} ${float(p[v + 2]!)}${colour}`);
			lines.push(faces);
		}
		return { name: `${frameStem(scene, frame)}.obj`, bytes: bytesOf(`${lines.join("\n")}\n`) };
	},
};

const UNIT_NAMES: Readonly<Record<string, string>> = { m: "metres", cm: "centimetres", mm: "millimetres" };

/** What is the same in every frame: texture places, materials, faces. Made once for a scene. */
const sameLines = new WeakMap<ExportScene, readonly { readonly item: ExportItem; readonly faces: string }[]>();

function linesOf(scene: ExportScene): readonly { readonly item: ExportItem; readonly faces: string }[] {
	const known = sameLines.get(scene);
	if (known) return known;
	const materials = namedMaterials(scene);
	const nameOf = ({ material, picture }: Worn) => materials.find((other) => other.material === material && other.picture === picture)!.name;
	let vertex = 1;
	let corner = 1;
	const made = scene.items.map((item) => {
		const { uv, triangles, positions } = item.mesh;
		const lines: string[] = [];
		// Texture files count v upwards.
		for (let c = 0; c < uv.length; c += 2) lines.push(`vt ${float(uv[c]!)} ${float(1 - uv[c + 1]!)}`);
		const at = (c: number) => (uv.length > 0 ? `${triangles[c]! + vertex}/${corner + c}` : `${triangles[c]! + vertex}`);
		for (const { faces, ...worn } of sides(item)) {
			if (faces.length > 0) lines.push(`usemtl ${nameOf(worn)}`);
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
	colours: "frames",
	label: "PLY sequence",
	extension: "ply",
	mime: "application/octet-stream",
	help: "One binary mesh for each frame, with colours and a number for every piece",
	options: SPACE_OPTIONS,
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

function plyHead(scene: ExportScene, vertices: number, faces: number): Uint8Array {
	const { up, unit } = spaceOf(scene);
	return bytesOf(
		[
			"ply",
			"format binary_little_endian 1.0",
			`comment ${UNIT_NAMES[unit]}, ${up} up`,
			...scene.items.map(({ path }, n) => `comment piece ${n} ${path}`),
			`element vertex ${vertices}`,
			...["x", "y", "z"].map((axis) => `property float ${axis}`),
			...["red", "green", "blue"].map((channel) => `property uchar ${channel}`),
			"property int piece",
			`element face ${faces}`,
			"property list uchar int vertex_indices",
			"end_header\n",
		].join("\n"),
	);
}

/** What faces wear. */
interface Worn {
	readonly material: Material;
	readonly picture: Uint8Array | undefined;
}

/** Faces of an item by what they wear. */
function sides({ mesh, outside, inside, picture, insidePicture }: ExportItem): (Worn & { readonly faces: number[] })[] {
	const all = Array.from({ length: triangleCount(mesh) }, (_, f) => f);
	const open = (f: number) => mesh.inside[f] === 1;
	return [
		{ material: outside, picture, faces: all.filter((f) => !open(f)) },
		{ material: inside, picture: insidePicture, faces: all.filter(open) },
	];
}

/** All that is worn, each under a name of its own, with the names of files for the pictures. */
function namedMaterials({ name, items }: ExportScene): (Worn & { readonly name: string; readonly file: string | undefined })[] {
	const made: (Worn & { name: string; file: string | undefined })[] = [];
	const taken = new Set<string>();
	const files = new Map<Uint8Array, string>();
	const worn = items.flatMap(({ outside, inside, picture, insidePicture }): Worn[] => [
		{ material: outside, picture },
		{ material: inside, picture: insidePicture },
	]);
	for (const { material, picture } of worn) {
		if (made.some((other) => other.material === material && other.picture === picture)) continue;
		const wanted = material.name.replace(/\s/g, "_");
		let unique = wanted;
		for (let n = 2; taken.has(unique); n++) unique = `${wanted}_${n}`;
		taken.add(unique);
		if (picture && !files.has(picture)) files.set(picture, `${fileStem(name)}-picture-${files.size + 1}.${pictureExtension(picture)}`);
		made.push({ material, picture, name: unique, file: picture && files.get(picture) });
	}
	return made;
}

const materialFile = (materials: ReturnType<typeof namedMaterials>): string =>
	materials
		.map(({ material: { colour, roughness, metalness, opacity }, name, file }) => {
			const rgb = [1, 3, 5].map((k) => float(Number.parseInt(colour.slice(k, k + 2), 16) / 255)).join(" ");
			return `newmtl ${name}\nKd ${rgb}\nd ${float(opacity)}\nPr ${float(roughness)}\nPm ${float(metalness)}\n${file ? `map_Kd ${file}\n` : ""}`;
		})
		.join("\n");
