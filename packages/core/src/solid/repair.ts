import {
	area,
	bounds,
	boundsCentre,
	boundsSize,
	diagonal,
	fillHoles,
	type Mesh,
	orient,
	reach,
	selfCrossings,
	solid,
	thicken,
	topology,
	weld,
} from "../mesh";
import type { Repair } from "../shot";
import { remesh } from "./remesh";
import { fromSolid, type Solids, scoped, toSolid } from "./solids";

/** What is wrong with a mesh and what would mend it; all counts are 0 for a sound one. */
export interface MeshReport {
	readonly triangles: number;
	readonly vertices: number;
	readonly shells: number;
	/** m, m², m³ in the object's own frame */
	readonly size: readonly [number, number, number];
	/** From its origin to its farthest vertex, m. */
	readonly reach: number;
	/** Of the box around it, and of its mass where it is closed. */
	readonly middle: readonly [number, number, number];
	readonly centroid: readonly [number, number, number];
	readonly area: number;
	readonly volume: number;
	readonly closed: boolean;
	/** Holes that go through it: 1 of a ring. */
	readonly genus: number;
	readonly openEdges: number;
	readonly crowdedEdges: number;
	readonly flippedEdges: number;
	readonly insideOut: boolean;
	/** Shells that overlap, so that their volume would be counted twice. m³ */
	readonly overlap: number;
	/** Pairs of triangles of one shell that pass through each other: what lies in both is counted twice, too. */
	readonly crossings: number;
	readonly faults: readonly Fault[];
}

export interface Fault {
	readonly message: string;
	/** Repairs to append, in order, the gentlest first. */
	readonly repairs: readonly { readonly label: string; readonly repairs: readonly Repair[] }[];
}

/** Applies repairs in order; each is pure. */
export function applyRepairs(solids: Solids, mesh: Mesh, repairs: readonly Repair[]): Mesh {
	return repairs.reduce((at, repair) => applyRepair(solids, at, repair), mesh);
}

function applyRepair(solids: Solids, mesh: Mesh, repair: Repair): Mesh {
	switch (repair.kind) {
		case "weld":
			return weld(mesh, repair.distance);
		case "orient":
			return orient(mesh);
		case "fill":
			return orient(fillHoles(mesh));
		case "unite":
			return uniteShells(solids, mesh);
		case "thicken":
			return thicken(orient(mesh), repair.thickness);
		case "remesh":
			return remesh(solids, mesh, repair.voxel);
	}
}

/** The shells as one solid without inner walls (Σ volume counts shared space once). */
function uniteShells(solids: Solids, mesh: Mesh): Mesh {
	return scoped((keep) => {
		const parts = keep(toSolid(solids, mesh)).decompose().map(keep);
		return fromSolid(keep(solids.Manifold.union(parts)));
	});
}

/** Extra cost of the overlap test is one boolean; skipped above this many shells. */
const MOST_SHELLS_TO_UNITE = 200;

/** The volume that overlapping shells count twice, m³; 0 for one shell. The mesh must be closed. */
export function shellOverlap(solids: Solids, mesh: Mesh, shells: number): number {
	if (shells < 2 || shells > MOST_SHELLS_TO_UNITE) return 0;
	return scoped((keep) => {
		const whole = keep(toSolid(solids, mesh));
		const parts = whole.decompose().map(keep);
		// A cavity is a shell of negative volume: it is no overlap.
		const sum = whole.volume();
		if (parts.some((part) => part.volume() < 0)) return 0;
		return Math.max(0, sum - keep(solids.Manifold.union(parts)).volume());
	});
}

/** Looks a mesh over. `shells` etc. are facts of the index; overlap costs one boolean. */
export function inspectMesh(solids: Solids, mesh: Mesh): MeshReport {
	const facts = topology(mesh);
	const { volume, centroid } = solid(mesh);
	const box = bounds(mesh);
	const span = diagonal(mesh);
	const insideOut = facts.closed && volume < 0;
	let overlap = 0;
	let selfProblem = false;
	if (facts.closed && !insideOut) {
		try {
			overlap = shellOverlap(solids, mesh, facts.shells);
			if (overlap < 1e-6 * Math.abs(volume)) overlap = 0;
		} catch {
			selfProblem = true;
		}
	}
	const voxel = niceVoxel(span / 90);
	const rebuild = { label: `Re-mesh at ${(voxel * 1000).toPrecision(2)} mm`, repairs: [{ kind: "remesh", voxel }] as Repair[] };
	const wall = niceVoxel(span / 250);
	const shell = {
		label: `Thickness of ${(wall * 1000).toPrecision(2)} mm`,
		repairs: [
			{ kind: "weld", distance: span * 1e-5 },
			{ kind: "thicken", thickness: wall },
		] as Repair[],
	};
	const faults: Fault[] = [];
	if (facts.openEdges > 0)
		faults.push({
			message: `${count(facts.openEdges, "open edge")}: the surface has holes, so it encloses no volume.`,
			repairs: [{ label: "Weld and fill", repairs: [{ kind: "weld", distance: span * 1e-5 }, { kind: "fill" }] }, shell, rebuild],
		});
	if (facts.crowdedEdges > 0)
		faults.push({ message: `${count(facts.crowdedEdges, "edge")} shared by more than two faces.`, repairs: [rebuild] });
	if (facts.flippedEdges > 0)
		faults.push({
			message: `${count(facts.flippedEdges, "edge")} between faces that look opposite ways.`,
			repairs: [{ label: "Turn faces alike", repairs: [{ kind: "orient" }] }],
		});
	if (insideOut)
		faults.push({
			message: "The mesh is inside out: its faces look inwards.",
			repairs: [{ label: "Turn outwards", repairs: [{ kind: "orient" }] }],
		});
	if (overlap > 0)
		faults.push({
			message: `Its ${facts.shells} shells overlap by ${((100 * overlap) / volume).toPrecision(2)} % of the volume.`,
			repairs: [{ label: "Unite the shells", repairs: [{ kind: "unite" }] }],
		});
	const crossings = selfCrossings(mesh, facts.shellOf);
	if (crossings > 0)
		faults.push({
			message: `The surface passes through itself, at ${count(crossings, "pair")} of triangles: what lies in it twice counts twice.`,
			repairs: [rebuild],
		});
	if (selfProblem) faults.push({ message: "The surface could not be read as a solid.", repairs: [rebuild] });
	return {
		triangles: mesh.triangles.length / 3,
		vertices: mesh.positions.length / 3,
		shells: facts.shells,
		size: boundsSize(box),
		reach: reach(mesh),
		middle: boundsCentre(box),
		centroid,
		area: area(mesh),
		volume,
		closed: facts.closed && !selfProblem,
		genus: facts.genus,
		openEdges: facts.openEdges,
		crowdedEdges: facts.crowdedEdges,
		flippedEdges: facts.flippedEdges,
		insideOut,
		overlap,
		crossings,
		faults,
	};
}

const count = (n: number, what: string): string => `${n.toLocaleString("en")} ${what}${n === 1 ? "" : "s"}`;

/** One or two digits are enough for a voxel size. */
const niceVoxel = (size: number): number => Number(Math.max(size, 1e-6).toPrecision(2));
