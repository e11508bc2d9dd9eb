import { isThere, itemPose } from "./posed";
import { float } from "./text";
import type { ExportItem, ExportScene } from "./types";

/**
 * Items with one mesh and one material as the points of a `PointInstancer`: a few arrays for each frame instead of a prim
 * for each item. Turns are `orientationsf` (USD 24.08), and half floats beside them for older readers, off by up to
 * 0.06°. `writePrototype`: the mesh, as a prim named `mesh`.
 */
export function writeInstancer(
	out: string[],
	indent: string,
	prim: { readonly name: string; readonly path: string },
	items: readonly ExportItem[],
	scene: ExportScene,
	writePrototype: (out: string[], indent: string) => void,
): void {
	const inner = `${indent}    `;
	const list = (texts: readonly string[]) => `[${texts.join(", ")}]`;
	const tuple = (values: readonly number[]) => `(${values.map(float).join(", ")})`;
	/** An attribute that is written at every frame, or once where it is always the same. */
	const sampled = (attribute: string, at: (frame: number) => string, moves: boolean) => {
		if (!moves) return out.push(`${inner}${attribute} = ${at(scene.firstFrame)}`);
		out.push(`${inner}${attribute}.timeSamples = {`);
		for (let frame = scene.firstFrame; frame <= scene.lastFrame; frame++) out.push(`${inner}    ${frame}: ${at(frame)},`);
		return out.push(`${inner}}`);
	};
	const moves = items.some(({ track }) => track >= 0);
	const turns = (frame: number) =>
		list(
			items.map((item) => {
				const [x, y, z, w] = itemPose(scene, item, frame).rotation;
				return tuple([w, x, y, z]);
			}),
		);
	out.push(`${indent}def PointInstancer "${prim.name}"`, `${indent}{`);
	out.push(`${inner}rel prototypes = [<${prim.path}/Prototypes/mesh>]`);
	out.push(`${inner}int[] protoIndices = ${list(items.map(() => "0"))}`);
	out.push(`${inner}int64[] ids = ${list(items.map((_, n) => String(n)))}`);
	out.push(`${inner}custom string[] names = ${list(items.map(({ path }) => JSON.stringify(path)))}`);
	sampled("point3f[] positions", (frame) => list(items.map((item) => tuple(itemPose(scene, item, frame).translation))), moves);
	sampled("quatf[] orientationsf", turns, moves);
	sampled("quath[] orientations", turns, moves);
	if (items.some(({ scale }) => scale !== 1)) out.push(`${inner}float3[] scales = ${list(items.map(({ scale: s }) => tuple([s, s, s])))}`);
	if (items.some(({ goneAt, comesAt }) => goneAt !== undefined || comesAt !== undefined))
		sampled("int64[] invisibleIds", (frame) => list(items.flatMap((item, n) => (isThere(item, frame) ? [] : [String(n)]))), true);
	if (items[0]!.colourAt) {
		sampled("color3f[] primvars:displayColor", (frame) => list(items.map((item) => tuple(item.colourAt!(frame)))), scene.coloursMove);
		out.push(`${inner}uniform token primvars:displayColor:interpolation = "varying"`);
	}
	out.push(`${inner}def Scope "Prototypes"`, `${inner}{`);
	writePrototype(out, `${inner}    `);
	out.push(`${inner}}`, `${indent}}`);
}
