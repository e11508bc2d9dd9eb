import { Mesh as ThreeMesh } from "three";
import { OBJLoader } from "three/examples/jsm/loaders/OBJLoader.js";
import { bad, good } from "../common";
import { MOST_TRIANGLES, meshOfGeometry } from "./geometry";
import { bytesOf, float, textOf } from "./text";
import type { ExportItem, MeshFormat, ReadModel } from "./types";

/** Wavefront OBJ: polygons, objects and groups, UVs. Materials are left out. */
export const obj: MeshFormat = {
	id: "obj",
	label: "OBJ",
	extensions: ["obj"],
	metres: false,
	read: (bytes) => {
		const text = textOf(bytes);
		if (text === undefined) return bad("This OBJ file is not text; it is damaged or of another kind.");
		const fault = firstFault(text);
		if (fault) return bad(fault);
		const group = new OBJLoader().parse(text);
		const parts: { name: string; mesh: ReadModel["parts"][number]["mesh"] }[] = [];
		for (const child of group.children) {
			if (!(child instanceof ThreeMesh)) continue;
			const mesh = meshOfGeometry(child.geometry, child.name ? `“${child.name}”` : "The file");
			if (!mesh.ok) return mesh;
			parts.push({ name: child.name, mesh: mesh.value });
		}
		if (parts.length === 0) return bad("The OBJ file holds no faces.");
		return good({ parts, notes: /^mtllib/m.test(text) ? ["Materials of the OBJ file are not read."] : [] });
	},
};

const MOST_PARTS = 20_000;
const MOST_VERTICES = 3 * MOST_TRIANGLES;

/** One by one: a list of them would take several times the text's memory. */
function* linesOf(text: string): Generator<string> {
	let at = 0;
	for (let end = text.indexOf("\n"); end >= 0; end = text.indexOf("\n", at)) {
		yield text.slice(at, end);
		at = end + 1;
	}
	yield text.slice(at);
}

/** The loader is lenient and would make holes of these: numbers that are none, and faces without their vertices. */
function firstFault(text: string): string | undefined {
	let vertices = 0;
	let number = 0;
	let corners = 0;
	let parts = 0;
	for (const line of linesOf(text)) {
		number++;
		// Objects, groups and changes of material each become a part.
		if (/^(o|g|usemtl)\s/.test(line)) {
			if (++parts > MOST_PARTS)
				return `The OBJ file has more than ${MOST_PARTS.toLocaleString("en")} objects, groups and changes of material. Join some of them first.`;
		} else if (line.startsWith("v ")) {
			if (++vertices > MOST_VERTICES) return `The OBJ file has more than ${MOST_VERTICES.toLocaleString("en")} vertices. Reduce it first.`;
			const values = line.slice(2).trim().split(/\s+/);
			if (values.length < 3 || values.slice(0, 3).some((value) => !Number.isFinite(Number(value))))
				return `Line ${number} of the OBJ file should hold a vertex with three numbers, but says “${line.trim().slice(0, 60)}”.`;
		} else if (line.startsWith("f ")) {
			const face = line.slice(2).trim().split(/\s+/);
			corners += 3 * (face.length - 2);
			if (corners > 3 * MOST_TRIANGLES)
				return `The OBJ file has more than ${MOST_TRIANGLES.toLocaleString("en")} triangles. Reduce it first.`;
			if (face.length < 3) return `Line ${number} of the OBJ file holds a face with fewer than three corners.`;
			for (const corner of face) {
				const index = Number(corner.split("/")[0]);
				if (!Number.isInteger(index) || index === 0)
					return `Line ${number} of the OBJ file: “${corner.slice(0, 30)}” is no corner of a face.`;
				if (index > vertices || index < -vertices)
					return `Line ${number} of the OBJ file: a face refers to vertex ${index}, but only ${vertices} stand before it. The file may be cut short.`;
			}
		}
	}
	return undefined;
}

/** One `o` per item, in world places. */
export function writeObj(items: readonly ExportItem[]): Uint8Array {
	const lines: string[] = ["# metres, y up"];
	let base = 1;
	for (const {
		path,
		mesh,
		translation: [x, y, z],
	} of items) {
		lines.push(`o ${path.replaceAll(" ", "_")}`);
		const { positions: p, triangles: t } = mesh;
		for (let v = 0; v < p.length; v += 3) lines.push(`v ${float(p[v]! + x)} ${float(p[v + 1]! + y)} ${float(p[v + 2]! + z)}`);
		for (let c = 0; c < t.length; c += 3) lines.push(`f ${t[c]! + base} ${t[c + 1]! + base} ${t[c + 2]! + base}`);
		base += p.length / 3;
	}
	return bytesOf(`${lines.join("\n")}\n`);
}
