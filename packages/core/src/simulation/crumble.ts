import type { Pose } from "../animation";
import { crumbledAt, type FrameStore } from "../cache";
import { compose, inverse, quatAt, rotate, tripleAt, vec3 } from "../maths";
import { BOND_WHOLE, type Bonded } from "./bonded";
import type { BodyState, Engine } from "./engine";
import { Held, Kind, type SimScene, stepSeconds } from "./scene";

/** Pieces that have come off and crumble: to dust, or to stones that come in their place. Part of the checkpoint. */
export interface CrumbleState {
	/** 1 per body: the step in which it came off all round; −1 where it has not, or never crumbles. */
	readonly loose: Int32Array;
	/** 1 per body: 1 = it has crumbled. */
	readonly gone: Uint8Array;
}

export const makeCrumbleState = (count: number): CrumbleState => ({ loose: new Int32Array(count).fill(-1), gone: new Uint8Array(count) });
export const copyCrumble = ({ loose, gone }: CrumbleState): CrumbleState => ({ loose: loose.slice(), gone: gone.slice() });

/** What crumbles when, and to what. */
export interface Crumbling {
	/** 1 per body: seconds after which it crumbles once it has come off; Infinity: never. What a connector holds stays. */
	readonly times: Float64Array;
	/** Of each piece that leaves some: its stones. */
	readonly stones: ReadonlyMap<number, readonly number[]>;
}

export function crumblingOf({ count, bonds, size, kind, jointed, crumbOf }: SimScene): Crumbling {
	const times = new Float64Array(count).fill(Number.POSITIVE_INFINITY);
	for (let k = 0; k < bonds.count; k++) {
		const { dust, dustAfter } = bonds.sets[bonds.set[k]!]!;
		for (const i of [bonds.a[k]!, bonds.b[k]!])
			if (kind[i] === Kind.Active && jointed[i] === 0 && size[i]! <= dust) times[i] = Math.min(times[i]!, dustAfter);
	}
	const stones = new Map<number, number[]>();
	crumbOf.forEach((piece, i) => {
		if (piece >= 0) stones.set(piece, [...(stones.get(piece) ?? []), i]);
	});
	return { times, stones };
}

/** What crumbled in a frame. */
export interface Crumbled {
	readonly body: number;
	readonly toStones: boolean;
}

/** Takes away what has been off long enough, and puts its stones there, moving as it did. Call once a frame. */
export function crumble(
	{ scene, engine, held, born, bonded, after: state, step }: CrumbleRun,
	crumbling: CrumbleState,
	{ times, stones }: Crumbling,
): Crumbled[] {
	const h = stepSeconds(scene);
	const due: Crumbled[] = [];
	const come: number[] = [];
	for (let i = 0; i < scene.count; i++) {
		if (!Number.isFinite(times[i]!) || crumbling.gone[i] === 1) continue;
		if (bonded.net.of[i]!.some((k) => bonded.state.state[k] === BOND_WHOLE)) continue;
		if (crumbling.loose[i]! < 0) crumbling.loose[i] = step;
		if ((step - crumbling.loose[i]!) * h < times[i]! - 1e-9) continue;
		crumbling.gone[i] = 1;
		state.awake[i] = 0;
		const own = stones.get(i) ?? [];
		due.push({ body: i, toStones: own.length > 0 });
		for (const stone of own) {
			placeStone(scene, state, i, stone);
			held[stone] = Held.Free;
			born[stone] = step;
			come.push(stone);
		}
	}
	if (due.length > 0) engine.remove(due.map(({ body }) => body));
	if (come.length > 0) engine.appear(come, state);
	return due;
}

/** What crumbling asks of a run. */
export interface CrumbleRun {
	readonly scene: SimScene;
	readonly engine: Engine;
	readonly held: Uint8Array;
	readonly born: Int32Array;
	readonly bonded: Bonded;
	readonly after: BodyState;
	readonly step: number;
}

/** A stone moves as that part of its piece did: nothing is gained or lost where it crumbles. */
function placeStone(scene: SimScene, state: BodyState, piece: number, stone: number): void {
	const turn = quatAt(state.rotation, piece);
	const middle = vec3.add(tripleAt(state.position, piece), rotate(turn, tripleAt(scene.centre, piece)));
	const { translation, rotation } = seatInPiece(scene, stone, { translation: tripleAt(state.position, piece), rotation: turn });
	const arm = vec3.subtract(vec3.add(translation, rotate(rotation, tripleAt(scene.centre, stone))), middle);
	const spin = tripleAt(state.spin, piece);
	state.position.set(translation, 3 * stone);
	state.rotation.set(rotation, 4 * stone);
	state.velocity.set(vec3.add(tripleAt(state.velocity, piece), vec3.cross(spin, arm)), 3 * stone);
	state.spin.set(spin, 3 * stone);
	state.awake[stone] = 1;
}

/** Where a stone is that is still a part of its piece, by where that is. */
export function seatInPiece(scene: SimScene, stone: number, { translation, rotation }: Pose): Pose {
	const piece = scene.crumbOf[stone]!;
	const back = inverse(quatAt(scene.rotation, piece));
	const offset = rotate(back, vec3.subtract(tripleAt(scene.position, stone), tripleAt(scene.position, piece)));
	return {
		translation: vec3.add(translation, rotate(rotation, offset)),
		rotation: compose(rotation, compose(back, quatAt(scene.rotation, stone))),
	};
}

/** Of each body, as `Held` says: what is not there at a frame of a run, because it has crumbled or is of what has not; before any without one. */
export function absentAt({ count, crumbOf }: SimScene, store?: FrameStore, frame = 0): Uint8Array {
	const crumbled = store ? crumbledAt(store) : new Map<number, number>();
	const isGone = (i: number) => (crumbled.get(i) ?? Number.POSITIVE_INFINITY) <= frame;
	return Uint8Array.from({ length: count }, (_, i) => (isGone(i) || (crumbOf[i]! >= 0 && !isGone(crumbOf[i]!)) ? Held.Absent : Held.Free));
}
