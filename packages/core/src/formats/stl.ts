import { STLLoader } from "three/examples/jsm/loaders/STLLoader.js";
import { bad, good } from "../common";
import { MOST_TRIANGLES, meshOfGeometry } from "./geometry";
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
		if (binary !== undefined && binary > MOST_TRIANGLES && 84 + 50 * binary === bytes.length)
			return bad(
				`The STL file has ${binary.toLocaleString("en")} triangles; up to ${MOST_TRIANGLES.toLocaleString("en")} can be opened. Reduce it first.`,
			);
		if (startsSolid(bytes) && (binary === undefined || 84 + 50 * binary !== bytes.length)) {
			const text = textOf(bytes);
			if (text === undefined) return bad("The STL file is neither text nor whole binary data; it is damaged.");
			if (!/endsolid/.test(text)) return bad("The STL file ends without “endsolid”; it is cut short.");
			const fault = facetFault(text);
			if (fault) return bad(fault);
		} else if (binary === undefined) return bad("The STL file is too short to hold a triangle.");
		const mesh = meshOfGeometry(new STLLoader().parse(tightBuffer(bytes)), "The STL file");
		return mesh.ok ? good({ parts: [{ name: "", mesh: mesh.value }], notes: [] }) : mesh;
	},
};

/** The loader looks for each facet's end to the end of the text: a facet without one costs it the whole text, each time. */
function facetFault(text: string): string | undefined {
	let facets = 0;
	for (let at = text.indexOf("facet"); at >= 0; ) {
		if (text.startsWith("endfacet", at - 3)) return `The STL file ends its facet ${facets + 1} before it begins; it is damaged.`;
		const end = text.indexOf("endfacet", at);
		const next = text.indexOf("facet", at + 5);
		if (end < 0 || next !== end + 3) return `The STL file has a facet (the ${facets + 1}th) without an end; it is damaged or cut short.`;
		if (++facets > MOST_TRIANGLES) return `The STL file has more than ${MOST_TRIANGLES.toLocaleString("en")} triangles. Reduce it first.`;
		at = text.indexOf("facet", end + 8);
	}
	return facets === 0 ? "The STL file holds no triangles." : undefined;
}

const startsSolid = (bytes: Uint8Array): boolean =>
	String.fromCharCode(...bytes.subarray(0, 6))
		.trimStart()
		.toLowerCase()
		.startsWith("solid");

const binaryTriangles = (bytes: Uint8Array): number | undefined =>
	bytes.length < 84 ? undefined : new DataView(bytes.buffer, bytes.byteOffset).getUint32(80, true);
