import { moves } from "../animation";
import { type Body, bodyCollider, bodyPose, type FittedCollider, measuresOf, type Workshop } from "../bodies";
import { type Progress, report } from "../common";
import { principalAxes, type Vec3, vec3 } from "../maths";
import { type Shot, type ShotSettings, TICKS_PER_SECOND, type Ticks, tickOfFrame } from "../shot";

/** How a body takes part, as stored in `SimScene.kind`. */
export const Kind = { Passive: 0, Active: 1, Animated: 2 } as const;
/** When an active body joins in, as stored in `SimScene.wake`. */
export const Wake = { Start: 0, Frame: 1, Touched: 2 } as const;

/** What the simulation works on: flat arrays, free of any engine. One entry per body that takes part. */
export interface SimScene {
	readonly count: number;
	readonly ids: readonly string[];
	readonly paths: readonly string[];
	readonly kind: Uint8Array;
	/** 3 per body, metres, world. */
	readonly position: Float64Array;
	/** 4 per body, unit quaternion. */
	readonly rotation: Float64Array;
	/** 3 per body, m/s. */
	readonly velocity: Float64Array;
	/** 3 per body, rad/s. */
	readonly spin: Float64Array;
	/** kg */
	readonly mass: Float64Array;
	/** 3 per body: centre of mass in the body's frame, metres. */
	readonly centre: Float64Array;
	/** 3 per body: principal moments, kg m². */
	readonly inertia: Float64Array;
	/** 4 per body: from the principal axes to the body's axes. */
	readonly inertiaFrame: Float64Array;
	readonly friction: Float64Array;
	readonly bounce: Float64Array;
	readonly linearDamping: Float64Array;
	readonly angularDamping: Float64Array;
	/** Smallest extent of the body, metres: what a step must not cross. */
	readonly thickness: Float64Array;
	readonly wake: Uint8Array;
	/** For `Wake.Frame`. */
	readonly wakeTick: Int32Array;
	/** For `Wake.Touched`: least approach speed, m/s. */
	readonly wakeSpeed: Float64Array;
	readonly colliders: readonly FittedCollider[];
	/** Bodies of kind Animated, and how to find their pose at a tick. */
	readonly animated: readonly number[];
	readonly poseAt: (
		body: number,
		tick: Ticks,
	) => { readonly translation: Vec3; readonly rotation: readonly [number, number, number, number] };
	readonly settings: ShotSettings;
}

/** Gathers what takes part from the bodies of a shot. Colliders are fitted here, which is the slow part. */
export async function makeScene(workshop: Workshop, shot: Shot, all: readonly Body[], progress: Progress = {}): Promise<SimScene> {
	const bodies = all.filter((body) => body.settings.kind !== "none" && (body.endless || body.mesh.triangles.length > 0));
	const n = bodies.length;
	const floats = (stride: number) => new Float64Array(n * stride);
	const scene = {
		count: n,
		ids: bodies.map((body) => body.id),
		paths: bodies.map((body) => body.path),
		kind: new Uint8Array(n),
		position: floats(3),
		rotation: floats(4),
		velocity: floats(3),
		spin: floats(3),
		mass: floats(1),
		centre: floats(3),
		inertia: floats(3),
		inertiaFrame: floats(4),
		friction: floats(1),
		bounce: floats(1),
		linearDamping: floats(1),
		angularDamping: floats(1),
		thickness: floats(1),
		wake: new Uint8Array(n),
		wakeTick: new Int32Array(n),
		wakeSpeed: floats(1),
		colliders: [] as FittedCollider[],
		animated: [] as number[],
		poseAt: (body: number, tick: Ticks) => bodyPose(shot, bodies[body]!, tick),
		settings: shot.settings,
	};
	for (const [i, body] of bodies.entries()) {
		if (i % 16 === 0) await report(progress, i / n, `Fitting colliders: ${body.path}`);
		const { settings } = body;
		const keyed = settings.kind === "animated" || (settings.kind === "passive" && moves(shot, body.object));
		scene.kind[i] = settings.kind === "active" ? Kind.Active : keyed ? Kind.Animated : Kind.Passive;
		if (keyed) scene.animated.push(i);
		const pose = bodyPose(shot, body, 0);
		scene.position.set(pose.translation, 3 * i);
		scene.rotation.set(pose.rotation, 4 * i);
		scene.velocity.set(settings.velocity, 3 * i);
		scene.spin.set(settings.spin, 3 * i);
		scene.friction[i] = settings.friction;
		scene.bounce[i] = settings.bounce;
		scene.linearDamping[i] = settings.linearDamping;
		scene.angularDamping[i] = settings.angularDamping;
		scene.colliders.push(bodyCollider(workshop, body));
		setMass(scene, i, body);
		setWake(scene, i, settings.wake, shot.settings);
	}
	return scene;
}

function setMass(scene: Pick<SimScene, "mass" | "centre" | "inertia" | "inertiaFrame" | "thickness">, i: number, body: Body): void {
	scene.inertiaFrame[4 * i + 3] = 1;
	if (body.endless) {
		scene.thickness[i] = Number.POSITIVE_INFINITY;
		return;
	}
	const { volume, centroid, inertia } = measuresOf(body.mesh);
	const { values, frame } = principalAxes(inertia);
	scene.mass[i] = body.mass;
	scene.centre.set(vec3.scale(centroid, body.scale), 3 * i);
	// Second moments over the volume are lengths squared: they grow with the square of the size at the same mass.
	const perVolume = volume > 0 ? (body.mass / volume) * body.scale ** 2 : 0;
	scene.inertia.set(
		values.map((value) => value * perVolume),
		3 * i,
	);
	scene.inertiaFrame.set(frame, 4 * i);
	// A plate's thickness is well told by volume over half its surface, whichever way it lies.
	scene.thickness[i] = body.area > 0 ? (2 * body.volume) / body.area : 0;
}

function setWake(
	scene: Pick<SimScene, "wake" | "wakeTick" | "wakeSpeed">,
	i: number,
	rule: Body["settings"]["wake"],
	settings: ShotSettings,
): void {
	if (rule.when === "frame") {
		scene.wake[i] = Wake.Frame;
		scene.wakeTick[i] = tickOfFrame(settings, rule.frame);
	} else if (rule.when === "touched") {
		scene.wake[i] = Wake.Touched;
		scene.wakeSpeed[i] = rule.leastSpeed;
	}
}

/** Ticks at which the steps of a frame begin and end; not integers where the step rate does not divide the ticks. */
export const tickOfStep = (settings: ShotSettings, step: number): Ticks => (step * TICKS_PER_SECOND) / settings.stepsPerSecond;
