import { type Bonded, bindGroups, copyBondState, makeBonded, makeBondState, recallBent } from "../bonded";
import type { Checkpoint } from "../checkpoint";
import { absentAt, type CrumbleState, type Crumbling, copyCrumble, crumblingOf, makeCrumbleState } from "../crumble";
import { type BodyState, type Engine, type EngineFactory, makeBodyState } from "../engine";
import { copyHeavierState, type HeavierState, makeHeavierState } from "../heavier";
import {
	copyJointState,
	findTaut,
	type JointState,
	type Lines,
	makeJointState,
	makeLines,
	makePulls,
	type Pulls,
	type Taut,
} from "../joints";
import { startOverlaps } from "../overlaps";
import { makePushes, type Pushes } from "../pushes";
import { copyRest, makeRestState, type RestState } from "../rest";
import { Held, Kind, type SimScene, Wake } from "../scene";
import { copyStill, makeStillState, type StillState } from "../still";
import type { Stopwatch } from "../stopwatch";
import { copyTaken, makeTakenState, type TakenState } from "../takeBack";
import { type MutedPair, micrometres } from "./muted";
import { sweepsFrom } from "./speeds";

/** All that a run knows between its steps. What of it has to be known to go on is in the checkpoint. */
export interface Run {
	/** While a step is done in parts, the scene with shorter steps. */
	scene: SimScene;
	readonly engine: Engine;
	readonly watch: Stopwatch;
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

/** A body this far below everything that holds still has fallen out of the scene. m */
const LOST_BELOW = 100;

/** At the first frame, or after `from`; `placed`: where bodies are then, where that is of another set-up whose engine is of no use. */
export async function startRun(
	scene: SimScene,
	factory: EngineFactory,
	from: Checkpoint | undefined,
	placed: BodyState | undefined,
	watch: Stopwatch,
): Promise<Run> {
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
		watch,
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
		sweepFrom: sweepsFrom(scene),
	};
}

/** What a run needs to go on after a frame with the same bytes; copies. */
export const checkpointOf = (run: Run, frame: number): Checkpoint => ({
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

function floorOf(scene: SimScene): number {
	let floor = 0;
	for (let i = 0; i < scene.count; i++) if (scene.kind[i] !== Kind.Active) floor = Math.min(floor, scene.position[3 * i + 1]!);
	return floor - LOST_BELOW;
}
