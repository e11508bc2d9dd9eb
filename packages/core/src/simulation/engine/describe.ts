import RAPIER from "@dimforge/rapier3d-simd-compat";
import type { ColliderShape } from "../../bodies";
import { bounds, boundsCentre, boundsSize } from "../../mesh";
import { BODY_DEFAULTS } from "../../shot";
import { Held, Kind, middleThickness, type SimScene, Wake } from "../scene";

/** Contact events from this multiple of a body's weight. */
const HIT_WEIGHTS = 4;

/**
 * The length that the library takes for one: it scales its tolerances and the speed under which things may sleep
 * (0.4 of it a second). A dozen times the middle thickness, in powers of two so that small edits do not change it;
 * at most 1. With less the tolerated overlap (a thousandth of it) gets so small that heaps never come to rest.
 */
const UNITS_OF_THICKNESS = 12;
export function typicalLength(scene: SimScene): number {
	const middle = middleThickness(scene);
	if (middle === undefined) return 1;
	let unit = 1;
	while (unit > UNITS_OF_THICKNESS * middle && unit > 1 / 64) unit /= 2;
	return unit;
}

export function describeBody(scene: SimScene, i: number, held: number, follows: boolean): RAPIER.RigidBodyDesc {
	const kind = scene.kind[i];
	const isHeld = held === Held.Waits;
	const description =
		kind === Kind.Animated || (isHeld && follows)
			? RAPIER.RigidBodyDesc.kinematicPositionBased()
			: kind === Kind.Active && !isHeld
				? RAPIER.RigidBodyDesc.dynamic()
				: RAPIER.RigidBodyDesc.fixed();
	if (held === Held.Absent) description.setEnabled(false);
	const p = scene.position;
	description.setTranslation(p[3 * i]!, p[3 * i + 1]!, p[3 * i + 2]!).setRotation(quaternionAt(scene.rotation, i));
	if (kind === Kind.Active) {
		const v = scene.velocity;
		if (!isHeld) description.setLinvel(v[3 * i]!, v[3 * i + 1]!, v[3 * i + 2]!).setAngvel(vectorAt(scene.spin, i));
		description
			// Other worlds pull by their own gravity, as a force.
			.setGravityScale(scene.world[i] === 0 ? 1 : 0)
			// By itself the library puts things to sleep sooner than some are allowed to.
			.setCanSleep(scene.restSpeed[i]! > 0 && scene.restAfter[i]! <= BODY_DEFAULTS.restAfter)
			.setLinearDamping(scene.linearDamping[i]!)
			.setAngularDamping(scene.angularDamping[i]!)
			.setAdditionalMassProperties(
				scene.mass[i]!,
				vectorAt(scene.centre, i),
				vectorAt(scene.inertia, i),
				quaternionAt(scene.inertiaFrame, i),
			);
	}
	return description;
}

/** `shape`: instead of the one that the scene has at the start. */
export function describeColliders(scene: SimScene, i: number, shape: ColliderShape = scene.colliders[i]!.shape): RAPIER.ColliderDesc[] {
	const kind = scene.kind[i]!;
	const descriptions = shapes(shape);
	const gravity = Math.sqrt(scene.settings.gravity.reduce((sum, g) => sum + g * g, 0));
	for (const description of descriptions) {
		description
			// Mass and inertia come from the real shape, not from what collides.
			.setDensity(0)
			.setContactSkin(scene.margin[i]!)
			.setCollisionGroups(groupOf(scene.world[i]!))
			.setFriction(scene.friction[i]!)
			.setFrictionCombineRule(RAPIER.CoefficientCombineRule.Average)
			.setRestitution(scene.bounce[i]!)
			.setRestitutionCombineRule(RAPIER.CoefficientCombineRule.Max);
		if (kind === Kind.Active) {
			description
				.setActiveEvents(RAPIER.ActiveEvents.CONTACT_FORCE_EVENTS)
				.setContactForceEventThreshold(
					scene.wake[i] === Wake.Touched || scene.bonded[i] === 1 || scene.jointed[i] === 1 ? 0 : HIT_WEIGHTS * scene.mass[i]! * gravity,
				);
			// Held bodies are fixed ones to the library: keyed ones must meet them too.
			if (scene.wake[i] === Wake.Touched || scene.bonded[i] === 1)
				description.setActiveCollisionTypes(RAPIER.ActiveCollisionTypes.DEFAULT | RAPIER.ActiveCollisionTypes.KINEMATIC_FIXED);
		}
	}
	return descriptions;
}

/** Member of the world's group, meeting only that. */
const groupOf = (world: number): number => ((1 << (world + 16)) | (1 << world)) >>> 0;

function shapes(shape: ColliderShape): RAPIER.ColliderDesc[] {
	switch (shape.kind) {
		case "sphere":
			return [RAPIER.ColliderDesc.ball(shape.radius).setTranslation(...shape.centre)];
		case "box":
			return [
				RAPIER.ColliderDesc.cuboid(...shape.half)
					.setTranslation(...shape.centre)
					.setRotation(turnOf(shape.turn)),
			];
		case "capsule":
		case "cylinder":
		case "cone":
			return [
				RAPIER.ColliderDesc[shape.kind](shape.half, shape.radius)
					.setTranslation(...shape.centre)
					.setRotation(turnOf(shape.turn)),
			];
		case "hulls":
			return shape.hulls.map((points) => RAPIER.ColliderDesc.convexHull(points)!);
		case "mesh":
			return [RAPIER.ColliderDesc.trimesh(shape.mesh.positions, shape.mesh.triangles, RAPIER.TriMeshFlags.FIX_INTERNAL_EDGES)];
		case "ground":
			return [RAPIER.ColliderDesc.cuboid(1000, 10, 1000).setTranslation(0, -10, 0)];
	}
}

const turnOf = ([x, y, z, w]: readonly [number, number, number, number]) => ({ x, y, z, w });

/**
 * Slivers of a few flat triangles have no hull that the library can find: it then has no shape, and says so with an
 * exception when the collider is made. Their box stands in, a little thickened.
 */
export function addCollider(world: RAPIER.World, description: RAPIER.ColliderDesc, body: RAPIER.RigidBody): RAPIER.Collider {
	const { shape } = description;
	try {
		return world.createCollider(description, body);
	} catch (error) {
		if (!(shape instanceof RAPIER.ConvexPolyhedron)) throw error;
		const { min, max } = bounds({ positions: shape.vertices });
		const half = boundsSize({ min, max }).map((side) => Math.max(side / 2, THINNEST)) as [number, number, number];
		description.shape = new RAPIER.Cuboid(...half);
		return world.createCollider(description.setTranslation(...boundsCentre({ min, max })), body);
	}
}
/** Half of the least thickness of a box that stands in for a hull. m */
const THINNEST = 5e-5;

export const vectorAt = (a: ArrayLike<number>, i: number) => ({ x: a[3 * i]!, y: a[3 * i + 1]!, z: a[3 * i + 2]! });
export const quaternionAt = (a: ArrayLike<number>, i: number) => ({ x: a[4 * i]!, y: a[4 * i + 1]!, z: a[4 * i + 2]!, w: a[4 * i + 3]! });
