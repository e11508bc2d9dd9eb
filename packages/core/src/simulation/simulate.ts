import { gravityAt } from "../animation";
import { CHUNK_FRAMES, type Chunk, POSE_STRIDE } from "../cache";
import { type Progress, report } from "../common";
import { angularVelocityBetween, quatAt, tripleAt, type Vec3, vec3 } from "../maths";
import { TICKS_PER_SECOND, type Ticks, tickOfFrame } from "../shot";
import {
	type Bonded,
	bearLoads,
	bendFloating,
	bindGroups,
	copyBondState,
	inGrace,
	makeBonded,
	makeBondState,
	recallBent,
	springBack,
	takeBlows,
	weaken,
} from "./bonded";
import { brace } from "./braced";
import type { Checkpoint } from "./checkpoint";
import { contactLoads } from "./contactLoads";
import { absentAt, type CrumbleState, type Crumbling, copyCrumble, crumble, crumblingOf, makeCrumbleState, seatInPiece } from "./crumble";
import { type BodyState, type Engine, type EngineFactory, makeBodyState } from "./engine";
import { copyHeavierState, type HeavierState, makeHeavierState } from "./heavier";
import {
	borneIn,
	breakJoints,
	copyJointState,
	findTaut,
	type JointLoad,
	type JointState,
	jointLoads,
	type Lines,
	lineLoads,
	makeJointState,
	makeLines,
	makePulls,
	noteBorne,
	notePulls,
	type Pulls,
	pullSprings,
	showStretched,
	stiffenTaut,
	stopCones,
	stretchLines,
	type Taut,
	takeBorne,
	takePulls,
} from "./joints";
import { overlapTolerance, startOverlaps } from "./overlaps";
import { applyPushes, centreOfMass, makePushes, type Pushes } from "./pushes";
import { type FrameLog, makeFrameLog, makeRecorder, recordFrame, takeChunk } from "./recorder";
import { makeRestState, type RestState, settleStill, sleepStill } from "./rest";
import { resistRolling } from "./rolling";
import { Held, handOver, Kind, middleThickness, type SimScene, stepSeconds, tickOfStep, Wake } from "./scene";
import { isSqueezed, meetsSleeping } from "./squeezed";
import { copyStill, makeStillState, type StillState, showStill } from "./still";
import { copyTaken, keyedPose, makeTakenState, type TakenState, takeBack } from "./takeBack";
import { findTouched } from "./touched";

export interface SimulateOptions extends Progress {
	/** Go on after this frame instead of starting anew. */
	readonly from?: Checkpoint;
	/** Where and how fast bodies are at `from`, where that is of another set-up whose engine is of no use; see `goOnFrom`. */
	readonly state?: BodyState | undefined;
	/** The last frame to make; the range's by default. */
	readonly until?: number;
	/**
	 * Gets each chunk as it is done, with the checkpoint at its end. A run that is cancelled hands over what it has
	 * without a checkpoint: going on later starts at the last one and makes those frames again, with the same bytes.
	 */
	readonly onChunk: (chunk: Chunk, checkpoint: Checkpoint | undefined) => void | Promise<void>;
}

export interface SimulateResult {
	/** The last frame that was made. */
	readonly frame: number;
	readonly finished: boolean;
}

/** A substep is done again at most this often while things give way. */
const MOST_REPEATS = 6;
/** A step is looked at this often for what was not held up in it. */
const MOST_LOOKS = 3;
/** A body this far below everything that holds still has fallen out of the scene. m */
const LOST_BELOW = 100;
/** Bodies that cross more than this share of their thickness in a step, or of that of most things, are swept; and those that go so far, m. */
const SWEEP_SHARE = 0.4;
const SWEEP_FROM = 0.05;
/** Slower contacts are no blows but load. m/s */
const HIT_SPEED = 0.25;
type MutedPair = readonly [a: number, b: number, depth: number];

interface Run {
	/** While a step is done in parts, the scene with shorter steps. */
	scene: SimScene;
	readonly engine: Engine;
	readonly held: Uint8Array;
	readonly lost: Uint8Array;
	/** Steps in which bodies began to move by themselves; −1: not yet. */
	readonly born: Int32Array;
	/** What held bodies begin with: as set, or what their keys had. */
	readonly start: Pick<SimScene, "velocity" | "spin">;
	readonly pushes: Pushes;
	readonly rest: RestState;
	readonly still: StillState;
	readonly heavier: HeavierState;
	readonly taut: Taut;
	readonly taken: TakenState;
	readonly bonded: Bonded;
	readonly crumble: CrumbleState;
	readonly crumbling: Crumbling;
	/** Whether anything can crumble. */
	readonly crumbles: boolean;
	readonly joints: JointState;
	readonly lines: Lines;
	readonly pulls: Pulls;
	/** Whether anything is bonded at all. */
	readonly hasBonds: boolean;
	/** Pairs of bodies that do not push each other until they have parted once, and how deep they were in each other, µm. */
	muted: MutedPair[];
	/** Whether the engine has been told of any pairs. */
	someMuted: boolean;
	/** Steps done since the first frame. */
	step: number;
	/** How many of its last part make up the last one. */
	lastParts: number;
	/** State before and after the last step. */
	before: BodyState;
	after: BodyState;
	readonly floor: number;
	/** What goes farther than this in a step is swept, m. */
	readonly sweepFrom: number;
}

/** Runs the scene frame by frame. The same scene gives the same bytes, on every machine and in one go or several. */
export async function simulate(steady: SimScene, factory: EngineFactory, options: SimulateOptions): Promise<SimulateResult> {
	const { settings } = steady;
	// A run that changes gravity has its own record of it: others may look at the scene meanwhile.
	const scene = settings.gravityKeys ? { ...steady, gravity: steady.gravity.slice() } : steady;
	const last = options.until ?? settings.lastFrame;
	const run = await start(scene, factory, options.from, options.state);
	let frame = options.from ? options.from.frame + 1 : settings.firstFrame;
	const recorder = makeRecorder(scene, frame);
	try {
		for (; frame <= last; frame++) {
			const tick = tickOfFrame(settings, frame);
			const log = makeFrameLog(tick);
			if (run.hasBonds) weaken(run, run.bonded, tick);
			advanceTo(run, tick, log);
			if (run.hasBonds) bear(run, log);
			if (run.crumbles) log.crumbled.push(...crumble(run, run.crumble, run.crumbling));
			unmuteParted(run);
			settleStill(scene, run.engine, run.after, run.rest);
			sleepStill(scene, run.engine, run.after, run.rest, frame - settings.firstFrame);
			const poses = posesAtTick(run, tick);
			showStill(scene, run.rest, run.still, poses);
			takeBorne(run.joints, log.borne);
			recordFrame(recorder, frame, run.after, poses, run.joints.load, log);
			if (recorder.poses.length === CHUNK_FRAMES || frame === last)
				await options.onChunk(takeChunk(recorder), {
					frame,
					step: run.step,
					parts: run.lastParts,
					held: run.held.slice(),
					lost: run.lost.slice(),
					born: run.born.slice(),
					rest: copyRest(run.rest),
					still: copyStill(run.still),
					heavier: copyHeavierState(run.heavier),
					taken: copyTaken(run.taken),
					crumble: copyCrumble(run.crumble),
					bonds: copyBondState(run.bonded.state),
					joints: copyJointState(run.joints),
					muted: Int32Array.from(run.muted.flat()),
					engine: run.engine.snapshot(),
				});
			await report(options, (frame - settings.firstFrame + 1) / (last - settings.firstFrame + 1), `Frame ${frame}`);
		}
		return { frame: last, finished: true };
	} catch (error) {
		if (!options.signal?.aborted) throw error;
		if (recorder.poses.length > 0) await options.onChunk(takeChunk(recorder), undefined);
		return { frame: Math.min(frame, last), finished: false };
	} finally {
		run.engine.dispose();
	}
}

async function start(scene: SimScene, factory: EngineFactory, from: Checkpoint | undefined, placed: BodyState | undefined): Promise<Run> {
	const held =
		from?.held.slice() ??
		absentAt(scene).map((held, i) => (scene.kind[i] === Kind.Active && scene.wake[i] !== Wake.Start ? Held.Waits : held));
	const engine = await factory(scene, held, placed ? undefined : from?.engine);
	const bonded = makeBonded(scene, from ? copyBondState(from.bonds) : makeBondState(scene));
	const muted: MutedPair[] = [];
	if (from) for (let k = 0; k < from.muted.length; k += 3) muted.push([from.muted[k]!, from.muted[k + 1]!, from.muted[k + 2]!]);
	else muted.push(...startOverlaps(scene, engine).map(({ a, b, depth }): MutedPair => [a, b, micrometres(depth)]));
	if (!from || placed) bindGroups(scene, engine, bonded);
	else recallBent({ scene, engine }, bonded);
	if (from && placed) {
		from.joints.broken.forEach((gone, n) => {
			if (gone === 1) engine.cutJoint(n);
		});
		engine.place(placed);
	}
	if (from && placed) engine.remove(Array.from(from.crumble.gone.keys()).filter((i) => from.crumble.gone[i] === 1));
	if (muted.length > 0) engine.mute(muted);
	const crumbling = crumblingOf(scene);
	const before = makeBodyState(scene.count);
	const after = makeBodyState(scene.count);
	engine.readState(before);
	engine.readState(after);
	return {
		scene,
		engine,
		held,
		lost: from?.lost.slice() ?? new Uint8Array(scene.count),
		born: from?.born.slice() ?? Int32Array.from(held, (h, i) => (scene.kind[i] === Kind.Active && h === 0 ? 0 : -1)),
		start: { velocity: scene.velocity.slice(), spin: scene.spin.slice() },
		pushes: makePushes(scene),
		rest: from ? copyRest(from.rest) : makeRestState(scene.count),
		still: from ? copyStill(from.still) : makeStillState(scene.count),
		// Another engine has all as heavy as they are.
		heavier: from && !placed ? copyHeavierState(from.heavier) : makeHeavierState(scene.count),
		taut: findTaut(scene),
		taken: from ? copyTaken(from.taken) : makeTakenState(scene.count),
		bonded,
		crumble: from ? copyCrumble(from.crumble) : makeCrumbleState(scene.count),
		crumbling,
		crumbles: crumbling.times.some(Number.isFinite),
		joints: from ? copyJointState(from.joints) : makeJointState(scene),
		lines: makeLines(),
		pulls: makePulls(scene),
		hasBonds: scene.bonds.count > 0,
		muted,
		someMuted: muted.length > 0,
		step: from?.step ?? 0,
		lastParts: from?.parts ?? 1,
		before,
		after,
		floor: floorOf(scene),
		sweepFrom: Math.min(SWEEP_FROM, SWEEP_SHARE * (middleThickness(scene) ?? Number.POSITIVE_INFINITY)),
	};
}

const copyRest = ({ anchor, frames }: RestState): RestState => ({ anchor: anchor.slice(), frames: frames.slice() });

function floorOf(scene: SimScene): number {
	let floor = 0;
	for (let i = 0; i < scene.count; i++) if (scene.kind[i] !== Kind.Active) floor = Math.min(floor, scene.position[3 * i + 1]!);
	return floor - LOST_BELOW;
}

function advanceTo(run: Run, tick: number, log: FrameLog): void {
	const { settings } = run.scene;
	const steps = Math.ceil((tick * settings.stepsPerSecond) / TICKS_PER_SECOND - 1e-9);
	while (run.step < steps) {
		const whole = run.scene;
		const parts = partsOf(run);
		const ticks = tickOfStep(settings, 1) / parts;
		const begin = tickOfStep(settings, run.step);
		for (let part = 0; part < parts; part++) {
			const isLast = part + 1 === parts;
			const until = isLast ? tickOfStep(settings, run.step + 1) : begin + (part + 1) * ticks;
			advancePart(run, log, begin + part * ticks, until, whole, parts);
		}
		setParts(run, whole, 1);
		run.step++;
	}
}

/**
 * Blows are followed in at most so many parts of a step; but not where there are connectors: they jerk when steps become shorter all at
 * once, and gave 4.6 kJ to the chain of a buoy of 2,400 kg.
 */
const MOST_BLOW_PARTS = 4;
/** And where something light is squeezed. */
const MOST_SQUEEZED_PARTS = 8;
/**
 * A blow that was divided and is not over goes on in so many parts of a step, and in more where it asks for them. In whole steps it ended
 * too soon: 300 kg at 8 m/s broke 65 bonds of a wall of bricks, not 116, and stuck in it.
 */
const GOES_ON_IN = 2;

/** A part of a step, of which it has so many; in two where a blow falls that is too fast for it. */
function advancePart(run: Run, log: FrameLog, begin: Ticks, end: Ticks, whole: SimScene, parts: number): void {
	setParts(run, whole, parts);
	if (advanceStep(run, log, begin, end, whole.joints.length === 0 ? parts : Number.POSITIVE_INFINITY)) {
		run.lastParts = parts;
		return;
	}
	const middle = (begin + end) / 2;
	advancePart(run, log, begin, middle, whole, 2 * parts);
	advancePart(run, log, middle, end, whole, 2 * parts);
}

function setParts(run: Run, whole: SimScene, parts: number): void {
	if ((run.scene.parts ?? 1) === parts) return;
	run.scene = parts === 1 ? whole : { ...whole, parts };
	run.engine.setStep(stepSeconds(run.scene));
}

/** In how many parts the coming step is done, so that nothing crosses more than its own thickness in one: a power of two. */
function partsOf(run: Run): number {
	const { scene, after } = run;
	const most = scene.settings.mostParts ?? 1;
	const forBlow = run.bonded.state.pressed.size > 0 ? Math.min(run.lastParts, GOES_ON_IN) : 1;
	if (most <= 1) return forBlow;
	const dt = stepSeconds(scene);
	// Connectors jerk when steps become shorter: where there are any, all are as short as they may be.
	let thicknesses = scene.joints.length > 0 ? Number.POSITIVE_INFINITY : 0;
	const note = (i: number) => {
		// Of its fastest point: the ends of what spins go farther than its middle.
		const speed = lengthAt(after.velocity, i) + 0.5 * scene.size[i]! * lengthAt(after.spin, i);
		if (scene.thickness[i]! > 0) thicknesses = Math.max(thicknesses, (speed * dt) / scene.thickness[i]!);
	};
	for (let i = 0; i < scene.count; i++) if (after.awake[i] === 1) note(i);
	for (const i of keyedNow(run)) note(i);
	let parts = forBlow;
	while (parts < thicknesses && 2 * parts <= most) parts *= 2;
	return parts;
}

/**
 * One step. What is held acts on what hits it like a wall of infinite mass; if it only gave way after the step, the
 * striker would have bounced already. So the state of everything that moves is remembered, and where something gave
 * way it is put back and the step is done again with that body free, at most a few times. (A 500 kg ball at 20 m/s
 * into blocks of 10 kg that wake when touched comes back at −1 m/s without this, and passes at 15 m/s with it.)
 *
 * `parts`: how many of it make up a whole one; endlessly many where it may not be divided. Returns whether it was done: not where a blow is
 * too fast for it, or something light is driven into the ground, and it may be divided. Then all is as it was.
 */
function advanceStep(run: Run, log: FrameLog, begin: Ticks, end: Ticks, parts: number): boolean {
	const { scene, engine, held } = run;
	if (scene.settings.gravityKeys) {
		const gravity = gravityAt(scene.settings, begin);
		scene.gravity.set(gravity, 0);
		engine.setGravity(gravity);
	}
	releaseDue(run, begin, log);
	takeBack(scene, engine, held, run.after, run.taken, begin);
	[run.before, run.after] = [run.after, run.before];
	if (begin === 0) engine.readState(run.before);
	sweepFast(run);
	applyPushes(run, run.pushes, begin);
	allowSpeeds(run);
	stretchLines(run, run.joints, run.lines);
	engine.remember(run.before);
	if (run.hasBonds) {
		unmuteSunk(run);
		muteFor(run, []);
	}
	const waiting = held.some((h, i) => h === Held.Waits && scene.wake[i] === Wake.Touched);
	for (let attempt = 0; ; attempt++) {
		stepEngine(run, begin, end);
		for (let look = 0; look < MOST_LOOKS; look++) {
			// Bracing is to look at every step, whatever the other says.
			const wasWrong = [look === 0 && meetsSleeping(run), brace(run, run.heavier), stiffen(run)];
			if (!wasWrong.some(Boolean)) break;
			engine.writeState(run.before);
			stepEngine(run, begin, end);
		}
		const touched = waiting ? withGroups(engine, held, findTouched(scene, engine, held, run.before)) : [];
		if (touched.length === 0) {
			const isCoarse =
				(parts < MOST_SQUEEZED_PARTS && isSqueezed(run)) || (run.hasBonds && !blow(run, log, begin, end, parts < MOST_BLOW_PARTS));
			if (isCoarse) {
				engine.writeState(run.before);
				[run.before, run.after] = [run.after, run.before];
				return false;
			}
			break;
		}
		for (const { body, by, speed } of touched) {
			setFree(run, body, begin);
			log.woken.push({ body, by, speed });
			// From here on it is remembered like everything that moves: it starts with its own velocity, if any.
			run.before.awake[body] = 1;
			for (let k = 0; k < 3; k++) {
				run.before.velocity[3 * body + k] = run.start.velocity[3 * body + k]!;
				run.before.spin[3 * body + k] = run.start.spin[3 * body + k]!;
			}
		}
		engine.release(
			touched.map(({ body }) => body),
			run.start,
		);
		if (attempt >= MOST_REPEATS) {
			log.repeated.push({ body: touched[0]!.body, by: touched[0]!.by, times: attempt + 1 });
			break;
		}
		engine.writeState(run.before);
	}
	engine.readState(run.after);
	loadJoints(run, log, end);
	resistRolling(scene, engine, run.after);
	logContacts(run, log);
	noteLost(run, log);
	return true;
}

/** What is bonded to what wakes, wakes too. */
function withGroups<T extends { readonly body: number }>(engine: Engine, held: Uint8Array, woken: readonly T[]): T[] {
	const all = new Map(woken.map((one) => [one.body, one]));
	for (const one of woken)
		for (const body of engine.membersOf(engine.carrier[one.body]!))
			if (!all.has(body) && held[body] === Held.Waits) all.set(body, { ...one, body });
	return [...all.values()].sort((a, b) => a.body - b.body);
}

/**
 * What blows on bonded bodies do; where they do something the step is done again without those contacts. Returns whether the step was
 * short enough for them: else nothing has been done.
 */
function blow(run: Run, log: FrameLog, begin: Ticks, end: Ticks, mayDivide: boolean): boolean {
	const { scene } = run;
	const seconds = stepSeconds(scene);
	const speedOf = (i: number): { velocity: Vec3; spin: Vec3 } => {
		const [a, b] = [keyedPose(scene, run.taken, i, begin), keyedPose(scene, run.taken, i, end)];
		return {
			velocity: vec3.scale(vec3.subtract(b.translation, a.translation), 1 / seconds),
			spin: angularVelocityBetween(a.rotation, b.rotation, seconds),
		};
	};
	const done = takeBlows(run, run.bonded, { now: begin / TICKS_PER_SECOND, keyed: keyedNow(run), speedOf, mayDivide });
	if (done === "coarse") return false;
	if (!done) return true;
	log.broken.push(...done.broke);
	muteOverlaps(run, done.broke);
	muteFor(run, done.muted);
	stepEngine(run, begin, end);
	return true;
}

function stepEngine(run: Run, begin: Ticks, end: Ticks): void {
	setKeyed(run, begin, end);
	actOnJoints(run);
	run.engine.step();
}

/** What those joints bore in the last step that are wanted, and what hangs together with them. */
function loadsOf(run: Run, isWanted: (joint: number) => boolean): JointLoad[] {
	const { scene, engine } = run;
	const joined = new Uint8Array(scene.count);
	for (const { a, b } of scene.joints)
		for (const i of [a, b])
			if (i >= 0)
				for (const member of engine.isAnchored(engine.carrier[i]!) ? [i] : engine.membersOf(engine.carrier[i]!)) joined[member] = 1;
	const contacts = contactLoads(run, (i) => joined[i] === 1);
	return jointLoads(run, run.joints, isWanted, pushedBodies(run, joined), contacts, run.heavier);
}

/** Keeps parts of taut ropes from shaking; whether the step is to be done again. */
function stiffen(run: Run): boolean {
	const { engine, taut } = run;
	if (taut.inner.length === 0) return false;
	engine.readState(run.after);
	const { broken } = run.joints;
	return stiffenTaut(
		run,
		taut,
		run.heavier,
		loadsOf(run, (n) => broken[n] === 0 && taut.joints.has(n)),
	);
}

/**
 * What joints bore is kept; those that had to bear too much part, and what is bonded is pulled at. Reading what touches costs a chain as
 * much as its step: what can neither part nor pull at bonds is looked at in the last step of a frame only.
 */
function loadJoints(run: Run, log: FrameLog, end: Ticks): void {
	const { scene } = run;
	const { broken } = run.joints;
	const isBonded = (i: number): boolean => i >= 0 && scene.bonded[i] === 1;
	const endsFrame = end >= log.tick;
	const isWanted = (n: number): boolean => {
		const { a, b, options } = scene.joints[n]!;
		return broken[n] === 0 && (endsFrame || options.breaks === "load" || isBonded(a) || isBonded(b));
	};
	if (!scene.joints.some((_, n) => isWanted(n))) return;
	const stiffnessOf = (i: number): number | undefined => (isBonded(i) ? run.bonded.lattice.ofBonds[i]! : undefined);
	const loads = [...loadsOf(run, isWanted), ...lineLoads(run, run.joints, run.lines, stiffnessOf)];
	notePulls(run, run.pulls, loads);
	const borne = borneIn(loads);
	noteBorne(log.borne, borne);
	for (const { joint, load } of breakJoints(run, run.joints, borne))
		log.parted.push({ a: scene.joints[joint]!.a, b: scene.joints[joint]!.b, load });
}

/** Forces of the shot on the bodies that `wanted` marks in the last step, N. */
function pushedBodies({ scene, pushes }: Run, wanted: Uint8Array): Map<number, Vec3> {
	const pushed = new Map<number, Vec3>();
	if (pushes.any)
		for (let k = 0; k < pushes.count; k++)
			if (wanted[pushes.list[k]!] === 1) {
				const [i, world] = [pushes.list[k]!, scene.world[pushes.list[k]!]!];
				// The gravity of other worlds is among the pushes already.
				const weight = (d: number) => (world > 0 ? scene.gravity[3 * world + d]! * scene.mass[i]! : 0);
				pushed.set(i, [0, 1, 2].map((d) => pushes.forces[3 * k + d]! - weight(d)) as unknown as Vec3);
			}
	return pushed;
}

/** Slow loads at the end of a frame, and what blows that are over have left. */
function bear(run: Run, log: FrameLog): void {
	const { scene, engine } = run;
	springBack(run, run.bonded);
	takePulls(run, run.joints, run.pulls, 1 / scene.settings.fps, run.bonded.state.pull);
	const broke = bearLoads(run, run.bonded, pushedBodies(run, scene.bonded));
	if (broke.length === 0) return;
	log.broken.push(...broke);
	muteOverlaps(run, broke);
	engine.readState(run.after);
}

/** Hulls of pieces that are not convex reach into their neighbours: they do not push each other until they have parted once. */
function muteOverlaps(run: Run, broke: readonly { readonly a: number; readonly b: number }[]): void {
	const { engine, scene } = run;
	for (const { a, b } of broke) {
		if (scene.kind[b] !== Kind.Active || engine.carrier[a] === engine.carrier[b]) continue;
		const depth = -(engine.separation(a, b, 0) ?? 0);
		// What only shares a face presses on from the beginning: muted, it would never part.
		if (depth > overlapTolerance(scene, a, b)) run.muted.push([a, b, micrometres(depth)]);
	}
}

const micrometres = (metres: number): number => Math.round(1e6 * metres);

/**
 * What has sunk into each other by this share of the thinner one's thickness since it was muted pushes again. With all of its thickness
 * joints of an arch lay up to 28 mm in its bricks for good.
 */
const SUNK_SHARE = 0.05;

function unmuteSunk(run: Run): void {
	const { engine, scene, muted } = run;
	if (muted.length === 0) return;
	run.muted = muted.filter(([a, b, depth]) => {
		if (engine.carrier[a] === engine.carrier[b]) return true;
		const most = 1e-6 * depth + SUNK_SHARE * Math.min(scene.thickness[a]!, scene.thickness[b]!);
		return -(engine.separation(a, b, 0) ?? 0) <= most;
	});
}

/** Pairs that do not push each other in the coming step: what overlapped from the start, what came apart a moment ago, and these. */
function muteFor(run: Run, pairs: readonly (readonly [number, number])[]): void {
	const grace = inGrace(run, run.bonded);
	const count = run.muted.length + grace.length + pairs.length;
	if (count === 0 && !run.someMuted) return;
	run.engine.mute([...run.muted, ...grace, ...pairs]);
	run.someMuted = count > 0;
}

/** What goes by its keys in this step: animated bodies, and active ones that have keys and have not woken or were taken back. */
const keyedNow = ({ scene, held }: Run): number[] => [...scene.animated, ...scene.followers.filter((i) => held[i] !== 0)];

/** What connectors do before a step that the engine's own joints do not. */
function actOnJoints(run: Run): void {
	pullSprings(run, run.joints);
	stopCones(run, run.joints);
	showStretched(run, run.joints);
}

/** Where what goes by its keys is at the beginning and at the end of a step. */
function setKeyed(run: Run, begin: Ticks, end: Ticks): void {
	const { scene, engine, taken } = run;
	for (const i of keyedNow(run)) {
		engine.setKeyed(i, keyedPose(scene, taken, i, begin), keyedPose(scene, taken, i, end));
		if (i < scene.shown) continue;
		// As the step before left it, a patch has the points of its end: asking just that keeps runs that go on the same.
		const [was, becomes] = [scene.pointsAt(i, begin), scene.pointsAt(i, end)];
		if (becomes.some((v, k) => v !== was[k])) engine.setPoints(i, becomes);
	}
}

/** From now on it moves by itself, with what its keys had where it has keys. */
function setFree({ scene, held, born, start, step }: Run, body: number, tick: number): void {
	held[body] = 0;
	born[body] = step;
	if (scene.followers.includes(body)) handOver(scene, body, tick, start);
}

/** Lets go what wakes by frame or by a region. */
function releaseDue(run: Run, tick: number, log: FrameLog): void {
	const { scene, engine, held, after } = run;
	const due: { body: number; speed: number }[] = [];
	for (let i = 0; i < scene.count; i++) {
		if (held[i] !== Held.Waits) continue;
		if (scene.wake[i] === Wake.Frame && scene.wakeTick[i]! <= tick) due.push({ body: i, speed: 0 });
		else if (scene.wake[i] === Wake.Region) {
			const region = scene.regions[scene.wakeRegion[i]!]!;
			const place = centreOfMass(scene, after, i);
			if (!region.contains(tick, place)) continue;
			const speed = region.speedAt(tick, place);
			if (speed >= scene.wakeSpeed[i]!) due.push({ body: i, speed });
		}
	}
	if (due.length === 0) return;
	const all = withGroups(engine, held, due);
	for (const { body, speed } of all) {
		setFree(run, body, tick);
		log.woken.push({ body, by: -1, speed });
	}
	engine.release(
		all.map(({ body }) => body),
		run.start,
	);
	engine.readState(after);
}

/** Lets the engine look ahead for bodies that would cross much of their own thickness, or of what is thin, in one step. */
function sweepFast(run: Run): void {
	const { scene, engine, before } = run;
	const dt = stepSeconds(scene);
	const fall = Math.abs(scene.gravity[1]!) * dt * dt;
	for (let i = 0; i < scene.count; i++) {
		if (before.awake[i] !== 1) continue;
		const way = lengthAt(before.velocity, i) * dt;
		engine.setSweep(i, way > SWEEP_SHARE * scene.thickness[i]! || way > run.sweepFrom ? 1.1 * way + fall : 0);
	}
	for (const i of keyedNow(run)) {
		engine.setSweep(i, 1.5 * lengthAt(before.velocity, i) * dt + 0.01);
	}
}

/** Of the i-th vector of 3 numbers. */
const lengthAt = (of: ArrayLike<number>, i: number): number => Math.sqrt(of[3 * i]! ** 2 + of[3 * i + 1]! ** 2 + of[3 * i + 2]! ** 2);

/** Blows make light things faster than what hits them, twice as fast at most; the rest is room. */
const ROOM_FOR_BLOWS = 3;

/** Tells the engine how fast things may get in the coming step. */
function allowSpeeds({ scene, engine, before, pushes }: Run): void {
	const dt = stepSeconds(scene);
	const length2 = (of: ArrayLike<number>, k: number) => of[3 * k]! ** 2 + of[3 * k + 1]! ** 2 + of[3 * k + 2]! ** 2;
	let fastest2 = 0;
	for (let i = 0; i < scene.count; i++)
		fastest2 = Math.max(fastest2, before.awake[i] === 1 ? length2(before.velocity, i) : 0, length2(scene.velocity, i));
	for (const i of scene.animated) fastest2 = Math.max(fastest2, length2(before.velocity, i));
	let push2 = 0;
	for (let k = 0; k < pushes.count; k++) push2 = Math.max(push2, length2(pushes.forces, k) / scene.mass[pushes.list[k]!]! ** 2);
	engine.allowSpeed(ROOM_FOR_BLOWS * (Math.sqrt(fastest2) + Math.sqrt(push2) * dt));
}

function logContacts({ scene, engine, held, before }: Run, log: FrameLog): void {
	const { contacts } = engine;
	const dt = stepSeconds(scene);
	const weighed = (i: number): number =>
		scene.kind[i] === Kind.Active && held[i] !== Held.Waits ? scene.mass[i]! : Number.POSITIVE_INFINITY;
	for (let k = 0; k < contacts.count; k++) {
		const a = contacts.a[k]!;
		const b = contacts.b[k]!;
		const impulse = contacts.impulse[k]!;
		// Bodies that wake by touch report every contact; count them by the same measure as the others.
		if (impulse < 4 * Math.min(weighed(a), weighed(b)) * 9.81 * dt) continue;
		if (relativeSpeed(before, a, b) < HIT_SPEED) continue;
		const [one, other] = [scene.owner[a]!, scene.owner[b]!];
		const pair = Math.min(one, other) * scene.count + Math.max(one, other);
		if (impulse > (log.contacts.get(pair) ?? 0)) log.contacts.set(pair, impulse);
	}
}

const relativeSpeed = ({ velocity: v }: BodyState, a: number, b: number): number =>
	Math.sqrt((v[3 * a]! - v[3 * b]!) ** 2 + (v[3 * a + 1]! - v[3 * b + 1]!) ** 2 + (v[3 * a + 2]! - v[3 * b + 2]!) ** 2);

function noteLost({ scene, after, lost, floor }: Run, log: FrameLog): void {
	for (let i = 0; i < scene.count; i++) {
		if (after.awake[i] !== 1 || lost[i] === 1 || after.position[3 * i + 1]! > floor) continue;
		lost[i] = 1;
		log.lost.push({ body: i, height: after.position[3 * i + 1]! });
	}
}

function unmuteParted(run: Run): void {
	if (run.muted.length === 0) return;
	const { engine } = run;
	const still = run.muted.filter(([a, b]) => engine.carrier[a] === engine.carrier[b] || (engine.separation(a, b, 0) ?? 1) < 0);
	if (still.length === run.muted.length) return;
	run.muted = still;
	if (!run.hasBonds) engine.mute(still);
}

/** Poses at a tick that may lie before the last step's end: then between the states before and after it. */
function posesAtTick(run: Run, tick: number): Float32Array {
	const { scene, step, before, after } = run;
	const poses = new Float32Array(scene.count * POSE_STRIDE);
	const end = tickOfStep(scene.settings, step);
	// What lies before the last part of a step is where that begins: only steps that frames do not divide have any.
	const t = step === 0 ? 1 : Math.max(0, 1 - (run.lastParts * (end - tick)) / (TICKS_PER_SECOND / scene.settings.stepsPerSecond));
	const exact = t > 1 - 1e-9;
	for (let i = 0; i < scene.count; i++) {
		const at = i * POSE_STRIDE;
		if (exact) {
			poses.set(after.position.subarray(3 * i, 3 * i + 3), at);
			poses.set(after.rotation.subarray(4 * i, 4 * i + 4), at + 3);
			continue;
		}
		for (let k = 0; k < 3; k++) poses[at + k] = before.position[3 * i + k]! * (1 - t) + after.position[3 * i + k]! * t;
		let dot = 0;
		for (let k = 0; k < 4; k++) dot += before.rotation[4 * i + k]! * after.rotation[4 * i + k]!;
		let size = 0;
		const q = [0, 0, 0, 0];
		for (let k = 0; k < 4; k++) {
			q[k] = before.rotation[4 * i + k]! * (1 - t) * (dot < 0 ? -1 : 1) + after.rotation[4 * i + k]! * t;
			size += q[k]! * q[k]!;
		}
		for (let k = 0; k < 4; k++) poses[at + 3 + k] = q[k]! / Math.sqrt(size);
	}
	if (run.hasBonds) bendFloating(run, run.bonded, poses);
	scene.crumbOf.forEach((piece, i) => {
		if (piece < 0 || run.held[i] !== Held.Absent) return;
		const at = poses.subarray(POSE_STRIDE * piece);
		const { translation, rotation } = seatInPiece(scene, i, { translation: tripleAt(at, 0), rotation: quatAt(at.subarray(3), 0) });
		poses.set(translation, i * POSE_STRIDE);
		poses.set(rotation, i * POSE_STRIDE + 3);
	});
	for (const i of keyedNow(run)) {
		// What is keyed stands exactly where its keys say at the frame.
		const pose = keyedPose(scene, run.taken, i, tick);
		poses.set(pose.translation, i * POSE_STRIDE);
		poses.set(pose.rotation, i * POSE_STRIDE + 3);
	}
	return poses;
}
