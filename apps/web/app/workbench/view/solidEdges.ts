import type { Vec3 } from "@rubble/core/maths";
import type { Id } from "@rubble/core/shot";
import type { Drawing } from "~/workers/messages";
import type { WorkbenchState } from "../store/store";
import { edgesOfDrawing } from "./formEdges";

type Edge = readonly [Vec3, Vec3];

const KNOWN = new WeakMap<Drawing, readonly Edge[]>();

/** Lines that show the form of a whole object, in its own frame; the box around it where it is in pieces. */
export function edgesOfObject({ drawings, reports }: Pick<WorkbenchState, "drawings" | "reports">, object: Id): readonly Edge[] {
	const drawing = drawings[object];
	if (drawing?.ids.length === 1) {
		const edges = KNOWN.get(drawing) ?? pairs(edgesOfDrawing(drawing, drawing.mesh[0]!, "all"));
		KNOWN.set(drawing, edges);
		return edges;
	}
	const report = reports[object];
	return report ? boxEdges(report.middle, report.size) : [];
}

function pairs(lines: Float32Array): Edge[] {
	const at = (v: number): Vec3 => [lines[3 * v]!, lines[3 * v + 1]!, lines[3 * v + 2]!];
	return Array.from({ length: lines.length / 6 }, (_, i) => [at(2 * i), at(2 * i + 1)]);
}

function boxEdges(middle: Vec3, size: Vec3): Edge[] {
	const corner = (n: number): Vec3 => middle.map((m, k) => m + ((n >> k) & 1 ? 0.5 : -0.5) * size[k]!) as unknown as Vec3;
	return [1, 2, 4].flatMap((along) =>
		Array.from({ length: 8 }, (_, n) => n)
			.filter((n) => (n & along) === 0)
			.map((n): Edge => [corner(n), corner(n | along)]),
	);
}
