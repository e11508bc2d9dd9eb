import { PLYLoader } from "three/examples/jsm/loaders/PLYLoader.js";
import { bad, good } from "../common";
import { MOST_TRIANGLES, meshOfGeometry } from "./geometry";
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
		const elements = elementsOf(head.text);
		if (typeof elements === "string") return bad(elements);
		const count = (name: string) => elements.find((element) => element.name === name)?.count ?? 0;
		if (count("face") === 0) return bad("The PLY file holds points but no faces. A mesh is needed.");
		if (count("vertex") === 0) return bad("The PLY file holds no vertices.");
		if (count("face") > MOST_TRIANGLES || count("vertex") > 3 * MOST_TRIANGLES)
			return bad(
				`The PLY file has ${count("face").toLocaleString("en")} faces; up to ${MOST_TRIANGLES.toLocaleString("en")} can be opened. Reduce it first.`,
			);
		// In text every value takes two characters at least.
		const isText = /^format\s+ascii/m.test(head.text);
		const least = elements.reduce((sum, element) => sum + element.count * (isText ? 2 * element.values : element.bytes), 0);
		if (least - 1 > bytes.length - head.end) return bad("The PLY file ends before its data do; it is cut short. Copy it again.");
		try {
			const mesh = meshOfGeometry(new PLYLoader().parse(tightBuffer(bytes)), "The PLY file");
			if (!mesh.ok) return mesh;
			return good({ parts: [{ name: "", mesh: mesh.value }], notes: [] });
		} catch {
			return bad("The PLY file ends before its data do; it is cut short. Copy it again.");
		}
	},
};

/** The header, and where the data begin. */
function headerOf(bytes: Uint8Array): { readonly text: string; readonly end: number } | undefined {
	let text = "";
	for (let i = 0; i < Math.min(bytes.length, 65_536); i++) text += String.fromCharCode(bytes[i]!);
	const end = text.indexOf("end_header");
	return text.startsWith("ply") && end > 0 ? { text: text.slice(0, end), end: end + "end_header\n".length } : undefined;
}

interface Element {
	readonly name: string;
	readonly count: number;
	/** Values and bytes that one of it takes at least: a list may be empty, but for its length. */
	values: number;
	bytes: number;
}

const SIZES: Readonly<Record<string, number>> = {
	char: 1,
	uchar: 1,
	int8: 1,
	uint8: 1,
	short: 2,
	ushort: 2,
	int16: 2,
	uint16: 2,
	int: 4,
	uint: 4,
	int32: 4,
	uint32: 4,
	float: 4,
	float32: 4,
	double: 8,
	float64: 8,
};

/** What the header announces, or what is wrong with it. */
function elementsOf(head: string): readonly Element[] | string {
	const elements: Element[] = [];
	for (const line of head.split(/\r?\n/)) {
		const words = line.trim().split(/\s+/);
		if (words[0] === "element") {
			const count = Number(words[2]);
			if (!Number.isInteger(count) || count < 0)
				return `The PLY file announces “${line.trim().slice(0, 60)}”, which is no number of things.`;
			elements.push({ name: words[1] ?? "", count, values: 0, bytes: 0 });
		} else if (words[0] === "property") {
			const element = elements.at(-1);
			const kind = words[1] === "list" ? words[2] : words[1];
			if (!element || kind === undefined || !Object.hasOwn(SIZES, kind))
				return `The PLY file's header has “${line.trim().slice(0, 60)}”, which is not known.`;
			element.values++;
			element.bytes += SIZES[kind]!;
		}
	}
	return elements;
}
