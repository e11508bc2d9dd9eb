import type { Vec3 } from "@rubble/core/maths";
import {
	BufferAttribute,
	BufferGeometry,
	Color,
	Group,
	LineBasicMaterial,
	LineSegments,
	Matrix4,
	Points,
	PointsMaterial,
	type Scene,
	Vector3,
} from "three";
import type { ColliderLines, Drawing } from "~/workers/messages";
import type { Bodies } from "./bodies";
import { edgesOfDrawing } from "./formEdges";

/** What is drawn over the solids: outlines of what is selected, colliders, centres of mass. */
export interface Overlays {
	readonly setSelection: (ids: readonly string[], drawings: readonly Drawing[]) => void;
	/** `apart`: how far the convex parts of a collider are pulled from each other; 0 where they are. */
	readonly setColliders: (lines: ColliderLines | null, apart: number) => void;
	/** Centres of mass, in the frames of their bodies. */
	readonly setCentres: (centres: readonly { readonly id: string; readonly at: Vec3 }[] | null) => void;
	/** Lines in the world; one of a single point is drawn as a dot. */
	readonly setGuides: (lines: readonly (readonly Vec3[])[]) => void;
	/** Ways of bodies through the frames: pairs of ends, 6 numbers per line, in the world. */
	readonly setPaths: (lines: Float32Array) => void;
	/** Lines between bodies: each end in the frame of its body. */
	readonly setTies: (ties: TieLines | null) => void;
	/** Arrows of force fields: pairs of ends, 6 numbers per line, in the world. */
	readonly setFields: (arrows: Float32Array) => void;
	/** Cameras, beacons and others that help, as lines in the world; those that are picked in their own colour. */
	readonly setHelpers: (lines: readonly (readonly Vec3[])[], picked: readonly (readonly Vec3[])[]) => void;
	/** Call after poses have changed. */
	readonly follow: () => void;
	/** Does something while none of this is to be seen: the picture for the yard. */
	readonly without: (work: () => void) => void;
	readonly dispose: () => void;
}

/** Lines whose two ends follow two bodies. */
export interface TieLines {
	readonly ids: readonly string[];
	/** 6 per line. */
	readonly ends: Float32Array;
	/** 2 per line: indices into `ids`; −1 for the world. */
	readonly bodies: Int32Array;
	/** 3 per line. */
	readonly colours: Float32Array;
}

/** More outlined bodies than this would hide the picture. */
const MOST_OUTLINES = 1200;
const FEW = 24;
/** Round things have contours for as many as this. */
const MOST_CONTOURED = 6;
export const PICKED = "#12a594";
const GUIDE = "#b5452c";

export function makeOverlays(scene: Scene, bodies: Bodies): Overlays {
	const outline = makeLines(PICKED, 1);
	const colliders = makeLines("#5a4fa3", 0.7);
	const centres = new Points(
		new BufferGeometry(),
		new PointsMaterial({ color: "#b5452c", size: 6, sizeAttenuation: false, depthTest: false, transparent: true }),
	);
	centres.frustumCulled = false;
	centres.renderOrder = 3;
	centres.visible = false;
	const strokes = new LineSegments(new BufferGeometry(), new LineBasicMaterial({ color: GUIDE, depthTest: false, transparent: true }));
	const dots = new Points(
		new BufferGeometry(),
		new PointsMaterial({ color: GUIDE, size: 9, sizeAttenuation: false, depthTest: false, transparent: true }),
	);
	for (const item of [strokes, dots]) {
		item.frustumCulled = false;
		item.renderOrder = 4;
	}
	const helpers = new LineSegments(new BufferGeometry(), new LineBasicMaterial({ color: "#5b6770", transparent: true, opacity: 0.9 }));
	const pickedHelpers = new LineSegments(new BufferGeometry(), new LineBasicMaterial({ color: PICKED }));
	helpers.frustumCulled = pickedHelpers.frustumCulled = false;
	const fields = new LineSegments(new BufferGeometry(), new LineBasicMaterial({ color: "#2b6ca3", transparent: true, opacity: 0.85 }));
	const paths = new LineSegments(new BufferGeometry(), new LineBasicMaterial({ color: "#8a5a1f", transparent: true, opacity: 0.8 }));
	const ties = new LineSegments(
		new BufferGeometry(),
		new LineBasicMaterial({ vertexColors: true, depthTest: false, transparent: true, opacity: 0.75 }),
	);
	ties.renderOrder = 2;
	fields.frustumCulled = paths.frustumCulled = ties.frustumCulled = false;
	let tied: TieLines | null = null;
	const followTies = () => {
		if (!tied) return;
		const attribute = ties.geometry.getAttribute("position") as BufferAttribute;
		const { ids, ends, bodies: of } = tied;
		for (let end = 0; end < of.length; end++) {
			point.set(ends[3 * end]!, ends[3 * end + 1]!, ends[3 * end + 2]!);
			const body = of[end]!;
			if (body >= 0 && bodies.matrixOf(ids[body]!, matrix)) point.applyMatrix4(matrix);
			attribute.setXYZ(end, point.x, point.y, point.z);
		}
		attribute.needsUpdate = true;
	};
	const setPairs = (object: LineSegments, ends: Float32Array) => {
		object.geometry.dispose();
		object.geometry = new BufferGeometry().setAttribute("position", new BufferAttribute(ends, 3));
	};
	const all = new Group().add(outline.object, colliders.object, centres, strokes, dots, helpers, pickedHelpers, fields, paths, ties);
	scene.add(all);
	let marked: readonly { readonly id: string; readonly at: Vec3 }[] = [];
	const matrix = new Matrix4();
	const point = new Vector3();
	return {
		without(work) {
			all.visible = false;
			work();
			all.visible = true;
		},
		setSelection(ids, drawings) {
			const wanted = new Set(ids.length > MOST_OUTLINES ? [] : ids);
			const contoured = wanted.size > MOST_CONTOURED ? "none" : "round";
			const parts: { id: string; edges: Float32Array }[] = [];
			for (const drawing of drawings)
				drawing.ids.forEach((id, i) => {
					if (wanted.has(id)) parts.push({ id, edges: edgesOfDrawing(drawing, drawing.mesh[i]!, contoured) });
				});
			outline.setLines(parts);
			// The edges of a few show through everything; of many only what is in front.
			outline.object.material.depthTest = parts.length > FEW;
			outline.follow(bodies);
		},
		setColliders(lines, apart) {
			colliders.object.material.depthTest = (lines?.ids.length ?? 0) > FEW;
			colliders.setLines(lines ? colliderParts(lines, apart) : []);
			colliders.follow(bodies);
		},
		setTies(next) {
			tied = next;
			ties.visible = next !== null;
			ties.geometry.dispose();
			ties.geometry = new BufferGeometry();
			if (!next) return;
			const colours = new Float32Array(2 * next.colours.length);
			for (let k = 0; 3 * k < next.colours.length; k++) {
				colours.set(next.colours.subarray(3 * k, 3 * k + 3), 6 * k);
				colours.set(next.colours.subarray(3 * k, 3 * k + 3), 6 * k + 3);
			}
			ties.geometry.setAttribute("position", new BufferAttribute(new Float32Array(next.ends.length), 3));
			ties.geometry.setAttribute("color", new BufferAttribute(colours, 3));
			followTies();
		},
		setFields: (arrows) => setPairs(fields, arrows),
		setPaths: (lines) => setPairs(paths, lines),
		setCentres(next) {
			marked = next ?? [];
			centres.visible = next !== null;
			centres.geometry.dispose();
			centres.geometry = new BufferGeometry();
			centres.geometry.setAttribute("position", new BufferAttribute(new Float32Array(3 * marked.length), 3));
			this.follow();
		},
		setHelpers(lines, picked) {
			fill(helpers, segments(lines));
			fill(pickedHelpers, segments(picked));
		},
		setGuides(lines) {
			fill(strokes, segments(lines));
			fill(
				dots,
				lines.filter((line) => line.length === 1).map((line) => line[0]!),
			);
		},
		follow() {
			outline.follow(bodies);
			colliders.follow(bodies);
			followTies();
			if (!centres.visible) return;
			const attribute = centres.geometry.getAttribute("position") as BufferAttribute;
			marked.forEach(({ id, at }, i) => {
				if (bodies.matrixOf(id, matrix)) point.set(...at).applyMatrix4(matrix);
				attribute.setXYZ(i, point.x, point.y, point.z);
			});
			attribute.needsUpdate = true;
		},
		dispose() {
			for (const item of [outline.object, colliders.object, centres, strokes, dots, helpers, pickedHelpers, fields, paths, ties])
				item.geometry.dispose();
			scene.remove(all);
		},
	};
}

/** The ends of all parts of lines. */
const segments = (lines: readonly (readonly Vec3[])[]): Vec3[] =>
	lines.flatMap((line) => line.slice(1).flatMap((point, i) => [line[i]!, point]));

function fill(object: LineSegments | Points, points: readonly Vec3[]): void {
	object.geometry.dispose();
	object.geometry = new BufferGeometry();
	object.geometry.setAttribute("position", new BufferAttribute(Float32Array.from(points.flat()), 3));
	object.visible = points.length > 0;
}

interface LinePart {
	readonly id: string;
	/** 3 per end, in the body's frame. */
	readonly edges: Float32Array;
	/** 3 per end; all parts have them or none. */
	readonly colours?: Float32Array;
}

/** Lines by body; where colliders have several parts, each part in a colour of its own. */
function colliderParts({ lines, body, part, away, ids }: ColliderLines, apart: number): LinePart[] {
	const several = part.some((n) => n > 0);
	const colour = new Color();
	const perBody = new Map<number, { edges: number[]; colours: number[] }>();
	body.forEach((index, l) => {
		const own = perBody.get(index) ?? { edges: [], colours: [] };
		perBody.set(index, own);
		for (let k = 0; k < 6; k++) own.edges.push(lines[6 * l + k]! + apart * away[3 * l + (k % 3)]!);
		colour.setHSL((0.72 + part[l]! * 0.381966) % 1, 0.55, 0.42);
		for (let k = 0; k < 2; k++) own.colours.push(colour.r, colour.g, colour.b);
	});
	return [...perBody].map(([index, { edges, colours }]) => ({
		id: ids[index]!,
		edges: Float32Array.from(edges),
		...(several && { colours: Float32Array.from(colours) }),
	}));
}

function makeLines(colour: string, opacity: number) {
	const object = new LineSegments(
		new BufferGeometry(),
		new LineBasicMaterial({ color: colour, transparent: true, opacity, depthTest: false }),
	);
	object.frustumCulled = false;
	object.renderOrder = 2;
	let parts: readonly LinePart[] = [];
	const matrix = new Matrix4();
	const point = new Vector3();
	return {
		object,
		setLines(next: typeof parts) {
			parts = next;
			object.visible = parts.length > 0;
			object.geometry.dispose();
			object.geometry = new BufferGeometry();
			object.geometry.setAttribute(
				"position",
				new BufferAttribute(new Float32Array(parts.reduce((sum, part) => sum + part.edges.length, 0)), 3),
			);
			const coloured = parts.some((part) => part.colours);
			object.material.vertexColors = coloured;
			object.material.color.set(coloured ? "#ffffff" : colour);
			object.material.needsUpdate = true;
			if (coloured)
				object.geometry.setAttribute(
					"color",
					new BufferAttribute(Float32Array.from(parts.flatMap(({ colours }) => [...(colours ?? [])])), 3),
				);
		},
		follow(bodies: Bodies) {
			if (parts.length === 0) return;
			const attribute = object.geometry.getAttribute("position") as BufferAttribute;
			let at = 0;
			for (const { id, edges } of parts) {
				const known = bodies.matrixOf(id, matrix);
				for (let v = 0; v < edges.length; v += 3, at++) {
					point.set(edges[v]!, edges[v + 1]!, edges[v + 2]!);
					if (known) point.applyMatrix4(matrix);
					attribute.setXYZ(at, point.x, point.y, point.z);
				}
			}
			attribute.needsUpdate = true;
		},
	};
}
