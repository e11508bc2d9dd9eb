import { quatAt, rotate, tripleAt, type Vec3, vec3 } from "../maths";
import type { Ticks } from "../shot";
import type { BodyState, Engine } from "./engine";
import { Kind, type SimScene, stepSeconds } from "./scene";

/** Buffers for the forces of one step. */
export interface Pushes {
	readonly list: Int32Array;
	/** 3 per entry of the list, newtons. */
	readonly forces: Float64Array;
	/** 1 per entry. */
	readonly wakes: Uint8Array;
	/** Entries of the last step. */
	count: number;
	/** Whether anything can ever be pushed in this scene. */
	readonly any: boolean;
}

/** A sleeping body is woken by forces from this acceleration on, m/s²: what is weaker would keep every heap awake. */
const WAKES_FROM = 0.5;

export const makePushes = (scene: SimScene): Pushes => ({
	list: new Int32Array(scene.count),
	forces: new Float64Array(3 * scene.count),
	wakes: new Uint8Array(scene.count),
	count: 0,
	any: scene.forces.length > 0 || scene.world.some((world) => world > 0),
});

interface Pushing {
	readonly scene: SimScene;
	readonly engine: Engine;
	readonly held: Uint8Array;
	readonly lost: Uint8Array;
	readonly born: Int32Array;
	readonly step: number;
	readonly before: BodyState;
}

/** Gives the engine the forces of the coming step: those of the shot, and the gravity of worlds beside the main one. */
export function applyPushes({ scene, engine, held, lost, born, step, before }: Pushing, pushes: Pushes, tick: Ticks): void {
	if (!pushes.any) return;
	const { settings } = scene;
	const dt = stepSeconds(scene);
	const acting = scene.forces.filter(({ live }) => live.begin(tick, dt));
	const { list, forces, wakes } = pushes;
	const sum = new Float64Array(3);
	let count = 0;
	const body = { x: 0, y: 0, z: 0, vx: 0, vy: 0, vz: 0, mass: 0, area: 0, age: 0 };
	const { position: p, rotation: q, velocity: v } = before;
	for (let i = 0; i < scene.count; i++) {
		if (scene.kind[i] !== Kind.Active || held[i] !== 0 || lost[i] === 1) continue;
		const asleep = before.awake[i] !== 1;
		const world = scene.world[i]!;
		if (acting.length === 0 && (world === 0 || asleep)) continue;
		sum.fill(0);
		body.mass = scene.mass[i]!;
		if (acting.length > 0) {
			// The centre of mass, turned with the body: v + 2 w (u × c) + 2 u × (u × c).
			const [ux, uy, uz, w] = [q[4 * i]!, q[4 * i + 1]!, q[4 * i + 2]!, q[4 * i + 3]!];
			const [cx, cy, cz] = [scene.centre[3 * i]!, scene.centre[3 * i + 1]!, scene.centre[3 * i + 2]!];
			const [tx, ty, tz] = [2 * (uy * cz - uz * cy), 2 * (uz * cx - ux * cz), 2 * (ux * cy - uy * cx)];
			body.x = p[3 * i]! + cx + w * tx + uy * tz - uz * ty;
			body.y = p[3 * i + 1]! + cy + w * ty + uz * tx - ux * tz;
			body.z = p[3 * i + 2]! + cz + w * tz + ux * ty - uy * tx;
			body.vx = v[3 * i]!;
			body.vy = v[3 * i + 1]!;
			body.vz = v[3 * i + 2]!;
			body.area = scene.area[i]!;
			body.age = ((step - born[i]!) * settings.fps) / settings.stepsPerSecond;
		}
		for (const { live, mask } of acting) if (mask?.[i] !== 0) live.add(sum, body);
		const pushed = sum[0]! ** 2 + sum[1]! ** 2 + sum[2]! ** 2;
		if (asleep && pushed < WAKES_FROM * WAKES_FROM) continue;
		if (world > 0) for (let k = 0; k < 3; k++) sum[k]! += scene.gravity[3 * world + k]!;
		list[count] = i;
		for (let k = 0; k < 3; k++) forces[3 * count + k] = sum[k]! * body.mass;
		wakes[count++] = asleep ? 1 : 0;
	}
	pushes.count = count;
	engine.push(list, count, forces, wakes);
}

/** Metres, world. */
export const centreOfMass = (
	{ centre }: Pick<SimScene, "centre">,
	{ position, rotation }: { readonly position: ArrayLike<number>; readonly rotation: ArrayLike<number> },
	i: number,
): Vec3 => vec3.add(tripleAt(position, i), rotate(quatAt(rotation, i), tripleAt(centre, i)));

/** Forces of the shot on the bodies that `wanted` marks in the last step, N. */
export function pushedBodies(
	{ scene, pushes }: { readonly scene: SimScene; readonly pushes: Pushes },
	wanted: Uint8Array,
): Map<number, Vec3> {
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
