import type { Vec3 } from "@rubble/core/maths";
import type { Id } from "@rubble/core/shot";
import { BufferAttribute, BufferGeometry, EdgesGeometry } from "three";
import type { Drawing } from "~/workers/messages";
import type { WorkbenchState } from "../store/store";

type Edge = readonly [Vec3, Vec3];

/** Faces that lean towards each other by more meet in an edge. */
const CREASE = 15; // degrees
/** What is rounder than this many creases show is drawn with all its edges. */
const FEW = 6;
const KNOWN = new WeakMap<Drawing, readonly Edge[]>();

/** Edges that show the form of a whole object, in its own frame; the box around it where it is in pieces. */
export function edgesOfObject({ drawings, reports }: Pick<WorkbenchState, "drawings" | "reports">, object: Id): readonly Edge[] {
	const drawing = drawings[object];
	if (drawing?.ids.length === 1) {
		const edges = KNOWN.get(drawing) ?? edgesOfDrawing(drawing);
		KNOWN.set(drawing, edges);
		return edges;
	}
	const report = reports[object];
	return report ? boxEdges(report.middle, report.size) : [];
}

function edgesOfDrawing({ positions, indices }: Drawing): readonly Edge[] {
	const solid = new BufferGeometry();
	solid.setAttribute("position", new BufferAttribute(positions, 3));
	solid.setIndex(new BufferAttribute(indices, 1));
	const creases = edgesIn(new EdgesGeometry(solid, CREASE));
	return creases.length > FEW ? creases : edgesIn(new EdgesGeometry(solid, 0));
}

function edgesIn(geometry: EdgesGeometry): Edge[] {
	const { array } = geometry.getAttribute("position");
	const at = (v: number): Vec3 => [array[3 * v]!, array[3 * v + 1]!, array[3 * v + 2]!];
	return Array.from({ length: array.length / 6 }, (_, i) => [at(2 * i), at(2 * i + 1)]);
}

function boxEdges(middle: Vec3, size: Vec3): Edge[] {
	const corner = (n: number): Vec3 => middle.map((m, k) => m + ((n >> k) & 1 ? 0.5 : -0.5) * size[k]!) as unknown as Vec3;
	return [1, 2, 4].flatMap((along) =>
		Array.from({ length: 8 }, (_, n) => n)
			.filter((n) => (n & along) === 0)
			.map((n): Edge => [corner(n), corner(n | along)]),
	);
}
