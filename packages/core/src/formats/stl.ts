import { STLLoader } from "three/examples/jsm/loaders/STLLoader.js";
import { bad, good } from "../common";
import { meshOfGeometry } from "./geometry";
import { textOf, tightBuffer } from "./text";
import type { MeshFormat } from "./types";

/** STL, text or binary. */
export const stl: MeshFormat = {
	id: "stl",
	label: "STL",
	extensions: ["stl"],
	metres: false,
	read: (bytes) => {
		const binary = binaryTriangles(bytes);
		if (binary !== undefined && 84 + 50 * binary > bytes.length && !startsSolid(bytes))
			return bad(
				`The STL file announces ${binary.toLocaleString("en")} triangles, but ends after ${Math.max(0, Math.floor((bytes.length - 84) / 50)).toLocaleString("en")}. It is cut short; copy it again.`,
			);
		if (startsSolid(bytes) && (binary === undefined || 84 + 50 * binary !== bytes.length)) {
			const text = textOf(bytes);
			if (text === undefined) return bad("The STL file is neither text nor whole binary data; it is damaged.");
			if (!/endsolid/.test(text)) return bad("The STL file ends without “endsolid”; it is cut short.");
			if (!/facet\s+normal/.test(text)) return bad("The STL file holds no triangles.");
		} else if (binary === undefined) return bad("The STL file is too short to hold a triangle.");
		const mesh = meshOfGeometry(new STLLoader().parse(tightBuffer(bytes)), "The STL file");
		return mesh.ok ? good({ parts: [{ name: "", mesh: mesh.value }], notes: [] }) : mesh;
	},
};

const startsSolid = (bytes: Uint8Array): boolean =>
	String.fromCharCode(...bytes.subarray(0, 6))
		.trimStart()
		.toLowerCase()
		.startsWith("solid");

const binaryTriangles = (bytes: Uint8Array): number | undefined =>
	bytes.length < 84 ? undefined : new DataView(bytes.buffer, bytes.byteOffset).getUint32(80, true);
