import { gravityAt, speedAt, worldPose } from "../animation";
import {
	type Body,
	bodyMoves,
	bodyPose,
	centreOf,
	colliderOf,
	type FittedCollider,
	type Inside,
	insideOf,
	livePatches,
	matchesRule,
	measuresOf,
	parseRule,
	poseOutside,
	regionAt,
	rowOf,
	ruleFacts,
	type Workshop,
} from "../bodies";
import { type Bonds, buildCrumbs, isCrumb, makeBonds } from "../bonds";
import { type Progress, report } from "../common";
import { type Joint, makeJoints } from "../connectors";
import { compileForce, forceById, type LiveForce } from "../forces";
import { inverse, principalAxes, rotate, tripleAt, type Vec3, vec3 } from "../maths";
import { type Id, type Shot, type ShotSettings, simulationStart, TICKS_PER_SECOND, type Ticks, tickOfFrame } from "../shot";
import { makeUnparted } from "./brokenSolid";

/** How a body takes part, as stored in `SimScene.kind`. */
export const Kind = { Passive: 0, Active: 1, Animated: 2 } as const;
/** Whether a body is in hand, as stored by runs: not at all; waits to be woken; was taken back to its keys; is not there yet. */
export const Held = { Free: 0, Waits: 1, Taken: 2, Absent: 3 } as const;
/** When an active body joins in, as stored in `SimScene.wake`. */
export const Wake = { Start: 0, Frame: 1, Touched: 2, Region: 3 } as const;

/**
 * What the simulation works on: flat arrays, free of any engine. One entry per body that takes part; after those, one for
 * each patch of the bodies whose shape changes, which collides in their place.
 */
export interface SimScene {
	/** While a step is done in parts: how many. */
	readonly parts?: number | undefined;
	readonly count: number;
	/** Bodies without the patches: those whose frames are stored. */
	readonly shown: number;
	/** 1 per body: whose patch it is; itself for all others. */
	readonly owner: Int32Array;
	/** 1 per body: the piece that it is a crumb of, and is not there before that has crumbled; −1 for all else. */
	readonly crumbOf: Int32Array;
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
	/** Slope on which it just begins to roll. */
	readonly rolling: Float64Array;
	/** It may come to rest below this speed, m/s, after so many seconds on the spot. */
	readonly restSpeed: Float64Array;
	readonly restAfter: Float64Array;
	/** Room around its collider, metres. */
	readonly margin: Float64Array;
	/** Surface, m². */
	readonly area: Float64Array;
	/** Which world it belongs to; only bodies of one meet. 0: the main one. */
	readonly world: Uint8Array;
	/** 3 per world, m/s²; of the main one where it changes over time, that of the step at hand. */
	readonly gravity: Float64Array;
	/** Largest extent of the body, metres. */
	readonly size: Float64Array;
	/** Smallest extent of the body, metres: what a step must not cross. */
	readonly thickness: Float64Array;
	/** 1 per body: it stands where a run has left it. */
	readonly kept: Uint8Array;
	/** Whether two bodies are pieces of one solid that stand to each other as they were broken. */
	readonly unparted: (a: number, b: number) => boolean;
	readonly wake: Uint8Array;
	/** For `Wake.Frame` when, for `Wake.Touched` and `Wake.Region` from when on. */
	readonly wakeTick: Int32Array;
	/** For `Wake.Touched` and `Wake.Region`: least speed, m/s. */
	readonly wakeSpeed: Float64Array;
	/** For `Wake.Touched`: a force that wakes it too, N; Infinity where none does. */
	readonly wakeForce: Float64Array;
	/** For `Wake.Touched`: which bodies (1 per body) can wake it; all where undefined. */
	readonly wakeBy: readonly (Uint8Array | undefined)[];
	/** For `Wake.Region`: index into `regions`. */
	readonly wakeRegion: Int32Array;
	readonly regions: readonly LiveRegion[];
	/** What pushes, and on which bodies (1 per body) it acts; on all where undefined. */
	readonly forces: readonly { readonly live: LiveForce; readonly mask: Uint8Array | undefined }[];
	readonly colliders: readonly FittedCollider[];
	/** What ties bodies to each other, numbered like them. */
	readonly bonds: Bonds;
	/** What joins bodies, numbered like them. */
	readonly joints: readonly Joint[];
	/** 1 per body: it is in some joint. */
	readonly jointed: Uint8Array;
	/** 1 per body: it is in some bond. */
	readonly bonded: Uint8Array;
	/** Bodies of kind Animated, and how to find their pose at a tick. */
	readonly animated: readonly number[];
	/** Active bodies with keys: they follow them until they wake, and take the speed along that the keys had. */
	readonly followers: readonly number[];
	/** For followers: the tick from which they follow their keys again; Infinity: never. */
	readonly backTick: Float64Array;
	readonly poseAt: (
		body: number,
		tick: Ticks,
	) => { readonly translation: Vec3; readonly rotation: readonly [number, number, number, number] };
	/** Of a patch: its points at a tick, 3 per point, in its own frame. */
	readonly pointsAt: (body: number, tick: Ticks) => Float32Array;
	readonly settings: ShotSettings;
}

/** A region at a tick. */
export interface LiveRegion {
	/** Whether a place lies in it. */
	readonly contains: (tick: Ticks, place: Vec3) => boolean;
	/** How fast it passes a place, metres per simulated second. */
	readonly speedAt: (tick: Ticks, place: Vec3) => number;
}

/** At most so many worlds: the engine tells them apart by bits. */
export const MOST_WORLDS = 16;

/** Gathers what takes part from the bodies of a shot. Colliders are fitted here, which is the slow part. */
export async function makeScene(workshop: Workshop, shot: Shot, all: readonly Body[], progress: Progress = {}): Promise<SimScene> {
	const whole = all.filter((body) => body.settings.kind !== "none" && (body.endless || body.mesh.triangles.length > 0));
	const bodies = [...whole, ...(await buildCrumbs(workshop, shot, whole, progress))];
	const numbers = new Map(whole.map(({ id }, i) => [id, i]));
	const shown = bodies.length;
	const live = bodies.map((body) => livePatches(workshop, shot, body));
	/** Of each patch: its body, and which of its patches it is. */
	const patches = live.flatMap((own, i) => Array.from({ length: own?.count ?? 0 }, (_, patch) => ({ body: i, patch })));
	const n = shown + patches.length;
	const wearers = [...bodies, ...patches.map(({ body }) => bodies[body]!)];
	const patchAt = (i: number, tick: Ticks) => live[patches[i - shown]!.body]!.at(tick)[patches[i - shown]!.patch]!;
	const floats = (stride: number) => new Float64Array(n * stride);
	const scene = {
		count: n,
		shown,
		owner: Int32Array.from({ length: n }, (_, i) => (i < shown ? i : patches[i - shown]!.body)),
		crumbOf: Int32Array.from(wearers, (body) => (isCrumb(body) ? numbers.get(body.crumbOf)! : -1)),
		ids: wearers.map((body) => body.id),
		paths: wearers.map((body) => body.path),
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
		rolling: floats(1),
		margin: floats(1),
		restSpeed: floats(1),
		restAfter: floats(1),
		area: Float64Array.from(wearers, (body) => body.area),
		size: Float64Array.from(wearers, (body) => (body.endless ? 0 : Math.max(...measuresOf(body.mesh).size) * body.scale)),
		world: new Uint8Array(n),
		gravity: new Float64Array(3 * MOST_WORLDS),
		thickness: floats(1),
		kept: Uint8Array.from(wearers, (body) => (body.kept ? 1 : 0)),
		unparted: makeUnparted(shot, wearers),
		wake: new Uint8Array(n),
		wakeTick: new Int32Array(n),
		wakeSpeed: floats(1),
		wakeForce: floats(1),
		wakeBy: [] as (Uint8Array | undefined)[],
		wakeRegion: new Int32Array(n),
		regions: [] as LiveRegion[],
		forces: [] as SimScene["forces"][number][],
		colliders: [] as FittedCollider[],
		bonds: bondsBetween(await makeBonds(workshop, shot, all, progress), shot, all, bodies),
		bonded: new Uint8Array(n),
		joints: jointsBetween(makeJoints(shot, all), all, bodies),
		jointed: new Uint8Array(n),
		animated: [] as number[],
		followers: [] as number[],
		backTick: new Float64Array(n).fill(Number.POSITIVE_INFINITY),
		poseAt: (i: number, tick: Ticks) => {
			const pose = bodyPose(shot, wearers[i]!, tick);
			return i < shown ? pose : poseOutside(pose, patchAt(i, tick));
		},
		pointsAt: (i: number, tick: Ticks) => patchAt(i, tick).points,
		settings: shot.settings,
	};
	const worlds = Object.keys(shot.worlds)
		.sort()
		.slice(0, MOST_WORLDS - 1);
	scene.gravity.set(gravityAt(shot.settings, 0), 0);
	for (const [w, id] of worlds.entries()) scene.gravity.set(shot.worlds[id]!.gravity, 3 * (w + 1));
	const masks = makeMasks(shot, wearers);
	const waitedFor = new Set(wearers.flatMap(({ settings: { wake } }) => (wake.when === "region" ? [wake.region] : [])));
	const regionIndex = new Map([...waitedFor].map((id, index) => [id, index]));
	for (const id of waitedFor) scene.regions.push(liveRegion(shot, id, await insideOf(workshop, shot, id)));
	for (const id of Object.keys(shot.objects).sort()) {
		const { source } = shot.objects[id]!;
		const force = source.kind === "force" ? forceById(source.force) : undefined;
		if (!force) continue;
		const live = compileForce(shot, id, force);
		scene.forces.push({ live, mask: masks(live.on) });
	}
	for (const [i, body] of wearers.entries()) {
		const pause = () => report(progress, i / n, `Fitting colliders: ${body.path}`);
		if (i % 16 === 0) await pause();
		const { settings } = body;
		const changes = i >= shown || live[i] !== undefined;
		const keyed = settings.kind === "animated" || (settings.kind === "passive" && (changes || bodyMoves(shot, body)));
		scene.kind[i] = settings.kind === "active" ? Kind.Active : keyed ? Kind.Animated : Kind.Passive;
		if (keyed) scene.animated.push(i);
		scene.rolling[i] = settings.rolling;
		scene.margin[i] = settings.margin;
		scene.restSpeed[i] = settings.restSpeed;
		scene.restAfter[i] = settings.restAfter;
		scene.world[i] = worlds.indexOf(settings.world) + 1;
		const pose = scene.poseAt(i, 0);
		scene.position.set(pose.translation, 3 * i);
		scene.rotation.set(pose.rotation, 4 * i);
		scene.velocity.set(settings.velocity, 3 * i);
		scene.spin.set(settings.spin, 3 * i);
		scene.friction[i] = settings.friction;
		scene.bounce[i] = settings.bounce;
		scene.linearDamping[i] = settings.linearDamping;
		scene.angularDamping[i] = settings.angularDamping;
		scene.colliders.push(
			i >= shown ? hullsOf([scene.pointsAt(i, 0)]) : live[i] ? hullsOf([], live[i].error) : await colliderOf(workshop, shot, body, pause),
		);
		setMass(scene, i, body);
		setWake(scene, i, settings.wake, shot, masks, regionIndex);
		if (settings.kind === "active" && bodyMoves(shot, body)) {
			scene.followers.push(i);
			if (settings.backAt !== undefined) scene.backTick[i] = tickOfFrame(shot.settings, settings.backAt);
			if (scene.wake[i] === Wake.Start) handOver(scene, i);
		}
	}
	for (const { a, b } of scene.joints) for (const i of [a, b]) if (i >= 0) scene.jointed[i] = 1;
	for (const ends of [scene.bonds.a, scene.bonds.b]) for (const i of ends) if (scene.kind[i] === Kind.Active) scene.bonded[i] = 1;
	return scene;
}

/** The collider of a patch; of a body whose patches collide in its place, one without hulls. */
export const hullsOf = (hulls: readonly Float32Array[], error = 0): FittedCollider => ({
	shape: { kind: "hulls", hulls },
	choice: "patches",
	error,
});

/** The joints between bodies that take part and of which one can move, in the scene's numbers. */
function jointsBetween(joints: readonly Joint[], all: readonly Body[], bodies: readonly Body[]): Joint[] {
	const inScene = new Map(bodies.map((body, i) => [body, i]));
	return joints.flatMap((joint) => {
		const a = inScene.get(all[joint.a]!);
		const b = joint.b < 0 ? -1 : inScene.get(all[joint.b]!);
		if (a === undefined || b === undefined) return [];
		return [a, b].some((i) => i >= 0 && bodies[i]!.settings.kind === "active") ? [{ ...joint, a, b }] : [];
	});
}

/** The bonds between bodies that take part, in the scene's numbers. What follows keys of its own is left out, as are worlds that differ. */
function bondsBetween(bonds: Bonds, shot: Shot, all: readonly Body[], bodies: readonly Body[]): Bonds {
	const inScene = new Map(bodies.map((body, i) => [body, i]));
	const followsOwn = (body: Body) => shot.motions?.[body.id] !== undefined || (body.settings.kind === "active" && bodyMoves(shot, body));
	const number = all.map((body) => (followsOwn(body) ? -1 : (inScene.get(body) ?? -1)));
	const kept: number[] = [];
	for (let k = 0; k < bonds.count; k++) {
		const [a, b] = [bonds.a[k]!, bonds.b[k]!];
		if (number[a]! >= 0 && number[b]! >= 0 && all[a]!.settings.world === all[b]!.settings.world) kept.push(k);
	}
	const pick = (from: Float64Array, stride: number) =>
		Float64Array.from(kept.flatMap((k) => [...from.subarray(stride * k, stride * (k + 1))]));
	return {
		count: kept.length,
		a: Int32Array.from(kept, (k) => number[bonds.a[k]!]!),
		b: Int32Array.from(kept, (k) => number[bonds.b[k]!]!),
		area: pick(bonds.area, 1),
		centre: pick(bonds.centre, 3),
		normal: pick(bonds.normal, 3),
		across: pick(bonds.across, 3),
		moments: pick(bonds.moments, 2),
		reach: pick(bonds.reach, 2),
		tension: pick(bonds.tension, 1),
		shear: pick(bonds.shear, 1),
		compression: pick(bonds.compression, 1),
		energy: pick(bonds.energy, 1),
		yields: pick(bonds.yields, 1),
		set: Uint16Array.from(kept, (k) => bonds.set[k]!),
		sets: bonds.sets,
	};
}

function setMass(scene: Pick<SimScene, "mass" | "centre" | "inertia" | "inertiaFrame" | "thickness">, i: number, body: Body): void {
	scene.inertiaFrame[4 * i + 3] = 1;
	if (body.endless) {
		scene.thickness[i] = Number.POSITIVE_INFINITY;
		return;
	}
	const { volume, inertia } = measuresOf(body.mesh);
	const { values, frame } = principalAxes(inertia);
	scene.mass[i] = body.mass;
	scene.centre.set(centreOf(body), 3 * i);
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
	scene: Pick<SimScene, "wake" | "wakeTick" | "wakeSpeed" | "wakeForce" | "wakeRegion"> & { readonly wakeBy: (Uint8Array | undefined)[] },
	i: number,
	rule: Body["settings"]["wake"],
	shot: Shot,
	masks: Masks,
	regionIndex: ReadonlyMap<Id, number>,
): void {
	scene.wakeBy.push(rule.when === "touched" ? masks(rule.by ?? "") : undefined);
	const { settings } = shot;
	const start = simulationStart(settings);
	scene.wakeTick[i] = tickOfFrame(settings, start);
	if (rule.when === "region") {
		scene.wake[i] = Wake.Region;
		scene.wakeRegion[i] = regionIndex.get(rule.region)!;
		scene.wakeSpeed[i] = rule.leastSpeed;
	} else if (rule.when === "touched") {
		scene.wake[i] = Wake.Touched;
		scene.wakeSpeed[i] = rule.leastSpeed;
		scene.wakeForce[i] = rule.leastForce || Number.POSITIVE_INFINITY;
	} else if (rule.when === "frame") {
		scene.wake[i] = Wake.Frame;
		scene.wakeTick[i] = tickOfFrame(settings, Math.max(start, rule.frame));
	} else if (start > settings.firstFrame) {
		scene.wake[i] = Wake.Frame;
	}
}

/** Which bodies a rule means, 1 per body; undefined where it means all. One mask for equal rules. */
type Masks = (rule: string) => Uint8Array | undefined;

function makeMasks(shot: Shot, bodies: readonly Body[]): Masks {
	const known = new Map<string, Uint8Array>();
	return (rule) => {
		if (rule.trim() === "") return undefined;
		const parsed = parseRule(rule);
		const mask =
			known.get(rule) ?? Uint8Array.from(bodies, (body) => (parsed.ok && matchesRule(parsed.value, ruleFacts(shot, rowOf(body))) ? 1 : 0));
		known.set(rule, mask);
		return mask;
	};
}

/** The velocity and spin that its keys give a body at a tick, written into `velocity` and `spin`. */
export function handOver(
	scene: Pick<SimScene, "poseAt" | "centre" | "settings" | "velocity" | "spin">,
	i: number,
	tick: Ticks = 0,
	{ velocity, spin }: Pick<SimScene, "velocity" | "spin"> = scene,
): void {
	const speed = speedAt(scene.settings, (at) => scene.poseAt(i, at), tripleAt(scene.centre, i), tick);
	velocity.set(speed.velocity, 3 * i);
	spin.set(speed.spin, 3 * i);
}

function liveRegion(shot: Shot, id: Id, inside: Inside): LiveRegion {
	const step = TICKS_PER_SECOND / shot.settings.stepsPerSecond;
	const seconds = shot.settings.timeScale / shot.settings.stepsPerSecond;
	let at = Number.NaN;
	let test: ((place: Vec3) => boolean) | undefined;
	return {
		contains: (tick, place) => {
			if (tick !== at) {
				at = tick;
				test = regionAt(shot, id, tick, inside);
			}
			return test?.(place) ?? false;
		},
		speedAt: (tick, place) => {
			const [before, now] = [worldPose(shot, id, Math.max(0, tick - step)), worldPose(shot, id, tick)];
			// The place as a point of the region, where it was a step ago.
			const within = rotate(inverse(now.rotation), vec3.subtract(place, now.translation));
			return vec3.length(vec3.subtract(place, vec3.add(before.translation, rotate(before.rotation, within)))) / seconds;
		},
	};
}

/** How thick most of what moves is, m. What crumbs leave shall not change how the run is solved before they are there. */
export function middleThickness({ count, kind, thickness, crumbOf }: SimScene): number | undefined {
	const all: number[] = [];
	for (let i = 0; i < count; i++) if (kind[i] === Kind.Active && thickness[i]! > 0 && crumbOf[i]! < 0) all.push(thickness[i]!);
	return all.sort((a, b) => a - b)[all.length >> 1];
}

/** Length of a step, simulated seconds. */
export const stepSeconds = ({ settings, parts = 1 }: Pick<SimScene, "settings" | "parts">): number =>
	settings.timeScale / settings.stepsPerSecond / parts;

/** Ticks at which the steps of a frame begin and end; not integers where the step rate does not divide the ticks. */
export const tickOfStep = (settings: ShotSettings, step: number): Ticks => (step * TICKS_PER_SECOND) / settings.stepsPerSecond;
