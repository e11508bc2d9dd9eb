import { PLYLoader } from "three/examples/jsm/loaders/PLYLoader.js";
import { bad, good } from "../common";
import { meshOfGeometry } from "./geometry";
import { tightBuffer } from "./text";
import type { MeshFormat } from "./types";

/** Stanford PLY, text or binary of either byte order. */
export const ply: MeshFormat = {
	id: "ply",
	label: "PLY",
	extensions: ["ply"],
	metres: false,
	read: (bytes) => {
		const head = headerOf(bytes);
		if (!head) return bad("This is not a PLY file: it does not begin with a PLY header.");
		if (!/element\s+face\s+[1-9]/.test(head)) return bad("The PLY file holds points but no faces. A mesh is needed.");
		try {
			const mesh = meshOfGeometry(new PLYLoader().parse(tightBuffer(bytes)), "The PLY file");
			if (!mesh.ok) return mesh;
			const wanted = Number(/element\s+vertex\s+(\d+)/.exec(head)?.[1] ?? 0);
			if (mesh.value.positions.length === 0 || wanted === 0) return bad("The PLY file holds no vertices.");
			return good({ parts: [{ name: "", mesh: mesh.value }], notes: [] });
		} catch {
			return bad("The PLY file ends before its data do; it is cut short. Copy it again.");
		}
	},
};

function headerOf(bytes: Uint8Array): string | undefined {
	let text = "";
	for (let i = 0; i < Math.min(bytes.length, 65_536); i++) text += String.fromCharCode(bytes[i]!);
	const end = text.indexOf("end_header");
	return text.startsWith("ply") && end > 0 ? text.slice(0, end) : undefined;
}
