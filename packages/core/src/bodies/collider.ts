import { atOnce, type Steps } from "../common";
import { compose, fromTo, IDENTITY, inverse, principalAxes, type Quat, rotate, type Vec3, vec3 } from "../maths";
import { bounds, boundsCentre, boundsSize, type Mesh, shells, solid, transformMesh } from "../mesh";
import type { BodyKind, ColliderChoice, FullBodySettings } from "../shot";
import { fromSolid, type Manifold, type Solids, scoped, toSolid } from "../solid";
import { buriedDepth } from "./concavity";
import { decompose, hullSolid } from "./decompose";
import { fourCorners } from "./fourCorners";

/** What collides, in the frame of the body, metres. */
export type ColliderShape =
	| { readonly kind: "sphere"; readonly centre: Vec3; readonly radius: number }
	/** `turn`: from the box's axes to the body's. */
	| { readonly kind: "box"; readonly centre: Vec3; readonly half: Vec3; readonly turn: Quat }
	/** A cylinder with round ends along its own y; `half` is half of the straight part. */
	| { readonly kind: "capsule"; readonly centre: Vec3; readonly half: number; readonly radius: number; readonly turn: Quat }
	/** Around its own y; `half` is half of its height. A cone's point is up. */
	| { readonly kind: "cylinder" | "cone"; readonly centre: Vec3; readonly half: number; readonly radius: number; readonly turn: Quat }
	/** One convex hull, or several parts. 3 numbers per point. */
	| { readonly kind: "hulls"; readonly hulls: readonly Float32Array[] }
	| { readonly kind: "mesh"; readonly mesh: Mesh }
	| { readonly kind: "ground" };

export interface FittedCollider {
	readonly shape: ColliderShape;
	/** What was chosen, and why where it was automatic. */
	readonly choice: Exclude<ColliderChoice, "auto"> | "ground" | "patches";
	/** Collider volume against the real one: 0.03 = 3 % too much. */
	readonly error: number;
	/** How deep its hulls bury the real surface, metres; where it is known. */
	readonly depth?: number;
}

/** As `fittingCollider`, in one go. */
export const fitCollider = (...of: Parameters<typeof fittingCollider>): FittedCollider => atOnce(fittingCollider(...of));

/** A simple shape is taken where it is within this share of the real volume. */
export const FIT_TOLERANCE = 0.02;

export interface PartsOptions {
	/** Most hulls of one body. */
	readonly mostHulls: number;
	/** Stop where Σ hulls exceeds the volume by less than this share. */
	readonly tolerance: number;
	/** And no hull buries the surface deeper than this, metres; 0: however deep. */
	readonly depth: number;
}
/** What the settings of a body say of its parts. */
export const partsOptions = ({
	hulls,
	hullError,
	hullDepth,
}: Pick<FullBodySettings, "hulls" | "hullError" | "hullDepth">): PartsOptions => ({
	mostHulls: hulls,
	tolerance: hullError,
	depth: hullDepth,
});
export const PARTS_DEFAULTS: PartsOptions = { mostHulls: 12, tolerance: FIT_TOLERANCE, depth: 0 };

/**
 * The collider of a body: as asked for, or automatic: the simplest of sphere, box and hull whose volume fits, else
 * convex parts; the exact mesh for passive and animated bodies, which never need a volume of their own.
 * The exact mesh of an active body falls back to parts: a surface has no inside to be pushed out of.
 */
export function* fittingCollider(
	solids: Solids,
	mesh: Mesh,
	wanted: ColliderChoice,
	kind: BodyKind,
	limits: PartsOptions = PARTS_DEFAULTS,
): Steps<FittedCollider> {
	const { volume } = solid(mesh);
	if (volume <= 0) return { shape: { kind: "mesh", mesh }, choice: "mesh", error: 0 };
	const relative = (other: number) => other / volume - 1;
	const sphere = () => fitSphere(mesh);
	const box = () => fitBox(mesh);
	switch (wanted) {
		case "sphere":
			return sphere();
		case "box":
			return box();
		case "capsule":
			return fitCapsule(mesh);
		case "cylinder":
			return fitRound(mesh, "cylinder");
		case "cone":
			return fitRound(mesh, "cone");
		case "hull":
			return hull();
		case "shells":
			return hullsOfShells();
		case "parts":
			return yield* parts();
		case "mesh":
			return kind === "active" ? yield* parts() : exact();
		case "plain":
			return fitPlain(mesh);
		case "auto": {
			// Round ones before the hull: the engine knows only four corners of a face, and a round end stands on all of its rim.
			const [ball, block] = [sphere(), box()];
			const round = ROUND.filter(([, least, most]) => block.error > least && block.error < most).map(([kind]) => fitRound(mesh, kind));
			for (const simple of [ball, block, ...round]) if (Math.abs(simple.error) <= FIT_TOLERANCE) return simple;
			const one = hull();
			if (one.error <= FIT_TOLERANCE) return one;
			return kind === "active" ? yield* parts() : exact();
		}
	}
	function exact(): FittedCollider {
		return { shape: { kind: "mesh", mesh }, choice: "mesh", error: 0 };
	}
	function hull(): FittedCollider {
		return scoped((keep) => {
			const real = keep(toSolid(solids, bare(mesh)));
			const convex = keep(real.hull());
			const error = relative(convex.volume());
			const depth = error > FIT_TOLERANCE ? buriedDepth(real, convex) : undefined;
			return {
				shape: { kind: "hulls", hulls: [cornersOf(convex, mesh.positions)] },
				choice: "hull",
				error,
				...(depth !== undefined && { depth }),
			};
		});
	}
	/** A hull for each connected part, whatever it is like. */
	function hullsOfShells(): FittedCollider {
		return scoped((keep) => {
			const parts = shells(bare(mesh));
			const hulls = parts.map((part) => keep(keep(toSolid(solids, part)).hull()));
			const sum = hulls.reduce((all, hull) => all + hull.volume(), 0);
			return {
				shape: { kind: "hulls", hulls: hulls.map((hull, k) => cornersOf(hull, parts[k]!.positions)) },
				choice: "shells",
				error: relative(sum),
			};
		});
	}
	function* parts(): Steps<FittedCollider> {
		const hulls = yield* decompose(solids, bare(mesh), limits);
		return {
			shape: { kind: "hulls", hulls: hulls.map(({ points }) => scoped((keep) => cornersOf(keep(hullSolid(solids, points)), points))) },
			choice: "parts",
			error: relative(hulls.reduce((sum, part) => sum + part.volume, 0)),
			depth: hulls.reduce((most, part) => Math.max(most, part.depth), 0),
		};
	}
}

/** What collides of a hull; all points of what is so thin that it has none: the engine then takes a box. */
const cornersOf = (hull: Manifold, points: Float32Array): Float32Array => (hull.isEmpty() ? points : fourCorners(fromSolid(hull)));

/** The collider of the same thing in another size. */
export function scaleCollider({ shape, depth, ...rest }: FittedCollider, scale: number): FittedCollider {
	const fitted = { ...rest, ...(depth !== undefined && { depth: depth * scale }) };
	switch (shape.kind) {
		case "sphere":
			return { ...fitted, shape: { ...shape, centre: vec3.scale(shape.centre, scale), radius: shape.radius * scale } };
		case "box":
			return { ...fitted, shape: { ...shape, centre: vec3.scale(shape.centre, scale), half: vec3.scale(shape.half, scale) } };
		case "capsule":
		case "cylinder":
		case "cone":
			return {
				...fitted,
				shape: { ...shape, centre: vec3.scale(shape.centre, scale), half: shape.half * scale, radius: shape.radius * scale },
			};
		case "hulls":
			return { ...fitted, shape: { kind: "hulls", hulls: shape.hulls.map((points) => points.map((x) => x * scale)) } };
		case "mesh":
			return { ...fitted, shape: { kind: "mesh", mesh: transformMesh(shape.mesh, { scale: [scale, scale, scale] }) } };
		case "ground":
			return { ...fitted, shape };
	}
}

/** Only what collides: without uv, which would make the solid slower. */
const bare = (mesh: Mesh): Mesh => ({ ...mesh, uv: new Float32Array(0) });

/** The sphere about the box's middle through the farthest vertex. */
function fitSphere(mesh: Mesh): FittedCollider {
	const centre = boundsCentre(bounds(mesh));
	let most = 0;
	for (let v = 0; v < mesh.positions.length; v += 3) {
		const d = vec3.length(vec3.subtract([mesh.positions[v]!, mesh.positions[v + 1]!, mesh.positions[v + 2]!], centre));
		if (d > most) most = d;
	}
	const error = ((4 / 3) * Math.PI * most * most * most) / solid(mesh).volume - 1;
	return { shape: { kind: "sphere", centre, radius: most }, choice: "sphere", error };
}

/** The smaller of the box along the body's axes and the one along its principal axes. */
function fitBox(mesh: Mesh): FittedCollider {
	const { volume } = solid(mesh);
	const [straight, turned] = [IDENTITY, mainAxes(mesh)].map((turn) => {
		const box = bounds(transformMesh(mesh, { rotation: inverse(turn) }));
		const size = boundsSize(box);
		return { centre: rotate(turn, boundsCentre(box)), half: vec3.scale(size, 0.5), turn, volume: size[0] * size[1] * size[2] };
	}) as [BoxFit, BoxFit];
	// A little smaller is not worth a turn.
	const { volume: boxed, ...best } = turned.volume < 0.98 * straight.volume ? turned : straight;
	return { shape: { kind: "box", ...best }, choice: "box", error: boxed / volume - 1 };
}

/** Uneven ground as a flat one: the box on its footprint that has its volume, so that its top is at the mean height. */
function fitPlain(mesh: Mesh): FittedCollider {
	const { min, max } = bounds(mesh);
	const [width, , depth] = boundsSize({ min, max });
	const height = solid(mesh).volume / (width * depth);
	const centre: Vec3 = [(min[0] + max[0]) / 2, min[1] + height / 2, (min[2] + max[2]) / 2];
	return { shape: { kind: "box", centre, half: [width / 2, height / 2, depth / 2], turn: IDENTITY }, choice: "plain", error: 0 };
}

interface BoxFit {
	readonly centre: Vec3;
	readonly half: Vec3;
	readonly turn: Quat;
	readonly volume: number;
}

/** Along the longest principal axis, as thick as the mesh is around it. */
function fitCapsule(mesh: Mesh): FittedCollider {
	const main = mainAxes(mesh);
	const aligned = transformMesh(mesh, { rotation: inverse(main) });
	const size = boundsSize(bounds(aligned));
	const longest = size.indexOf(Math.max(...size));
	const axis: Vec3 = [longest === 0 ? 1 : 0, longest === 1 ? 1 : 0, longest === 2 ? 1 : 0];
	const turn = compose(main, fromTo([0, 1, 0], axis));
	const upright = transformMesh(mesh, { rotation: inverse(turn) });
	const box = bounds(upright);
	const middle = boundsCentre(box);
	let radius = 0;
	const { positions: p } = upright;
	for (let v = 0; v < p.length; v += 3) radius = Math.max(radius, Math.sqrt((p[v]! - middle[0]) ** 2 + (p[v + 2]! - middle[2]) ** 2));
	// The ends are as far out as they must be to hold every point; the middle of the mesh may be thinner.
	let half = 0;
	for (let v = 0; v < p.length; v += 3) {
		const off = (p[v]! - middle[0]) ** 2 + (p[v + 2]! - middle[2]) ** 2;
		half = Math.max(half, Math.abs(p[v + 1]! - middle[1]) - Math.sqrt(Math.max(0, radius * radius - off)));
	}
	const volume = Math.PI * radius * radius * (2 * half + (4 / 3) * radius);
	return {
		shape: { kind: "capsule", centre: rotate(turn, middle), half, radius, turn },
		choice: "capsule",
		error: volume / solid(mesh).volume - 1,
	};
}

/**
 * By how much a box around a round body exceeds it, with much to spare: 4 / π − 1 about a cylinder, 12 / π − 1 about a cone. Most
 * pieces of a broken body are neither, and need no closer look.
 */
const ROUND = [
	["cylinder", 0.1, 0.45],
	["cone", 1.2, 3.5],
] as const;

/**
 * The smallest cylinder or cone around the mesh about one of its own axes or its principal ones: a body that is as wide as it
 * is high has any principal axes.
 */
function fitRound(mesh: Mesh, kind: "cylinder" | "cone"): FittedCollider {
	const { volume } = solid(mesh);
	const ways = kind === "cone" ? [1, -1] : [1];
	const fits = [IDENTITY, mainAxes(mesh)].flatMap((frame) =>
		[0, 1, 2].flatMap((axis) =>
			ways.map((way) => {
				const along = [0, 0, 0].with(axis, way) as unknown as Vec3;
				return roundAbout(mesh, kind, compose(frame, fromTo([0, 1, 0], along)));
			}),
		),
	);
	const best = fits.reduce((least, one) => (one.volume < least.volume ? one : least));
	return { shape: best.shape, choice: kind, error: best.volume / volume - 1 };
}

/** The smallest cylinder or cone around the mesh that stands upright before this turn. */
function roundAbout(mesh: Mesh, kind: "cylinder" | "cone", turn: Quat) {
	const { positions: p } = transformMesh(mesh, { rotation: inverse(turn) });
	const { min, max } = bounds({ positions: p });
	const middle = boundsCentre({ min, max });
	const height = max[1] - min[1];
	let radius = 0;
	for (let v = 0; v < p.length; v += 3) {
		const off = Math.sqrt((p[v]! - middle[0]) ** 2 + (p[v + 2]! - middle[2]) ** 2);
		// Of a cone, as wide as its foot must be so that this point is in it; the point itself is where rounding leaves it.
		const share = kind === "cone" ? (max[1] - p[v + 1]!) / height : 1;
		radius = Math.max(radius, share > ROUNDING ? off / share : off > ROUNDING * height ? Number.POSITIVE_INFINITY : 0);
	}
	return {
		shape: { kind, centre: rotate(turn, middle), half: height / 2, radius, turn },
		volume: (Math.PI * radius * radius * height) / (kind === "cone" ? 3 : 1),
	};
}

/** Of a mesh's size: single precision rounds vertices by less. */
const ROUNDING = 1e-5;

const mainAxes = (mesh: Mesh): Quat => principalAxes(solid(mesh).inertia).frame;
