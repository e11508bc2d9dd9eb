import type { Body, BuiltShot } from "@rubble/core/bodies";
import { inverse, rotate, type Vec3, vec3 } from "@rubble/core/maths";
import { restingUse, type SimScene } from "@rubble/core/simulation";
import type { Ties } from "./messages";

/** Bonds and joints of a scene as lines between their bodies, with what they bear. */
export function tiesOf({ bodies }: BuiltShot, scene: SimScene): Ties {
	const { bonds, joints, count } = scene;
	const scaleOf = new Map<string, Body>(bodies.map((body) => [body.id, body]));
	// Drawn bodies have their size in their frames.
	const scale = scene.ids.map((id) => scaleOf.get(id)?.scale ?? 1);
	const local = (i: number, place: Vec3): Vec3 => {
		if (i < 0) return place;
		const q = [0, 1, 2, 3].map((k) => scene.rotation[4 * i + k]!) as unknown as [number, number, number, number];
		const p: Vec3 = [scene.position[3 * i]!, scene.position[3 * i + 1]!, scene.position[3 * i + 2]!];
		return vec3.scale(rotate(inverse(q), vec3.subtract(place, p)), 1 / scale[i]!);
	};
	const middle = (i: number): Vec3 => vec3.scale([scene.centre[3 * i]!, scene.centre[3 * i + 1]!, scene.centre[3 * i + 2]!], 1 / scale[i]!);
	const bondEnds = new Float32Array(6 * bonds.count);
	const use = restingUse(scene);
	for (let k = 0; k < bonds.count; k++) {
		const [a, b] = [bonds.a[k]!, bonds.b[k]!];
		bondEnds.set(middle(a), 6 * k);
		const face: Vec3 = [bonds.centre[3 * k]!, bonds.centre[3 * k + 1]!, bonds.centre[3 * k + 2]!];
		bondEnds.set(scene.bonded[b] === 1 ? middle(b) : local(b, face), 6 * k + 3);
	}
	return {
		ids: scene.ids,
		bonds: {
			ends: bondEnds,
			bodies: Int32Array.from({ length: 2 * bonds.count }, (_, n) => {
				const [k, side] = [n >> 1, n & 1];
				// What holds still and has no drawing of its own is a place in the world.
				return side === 0 ? bonds.a[k]! : bonds.b[k]!;
			}),
			tension: Float32Array.from(bonds.tension, (v) => v / 1e6),
			area: Float32Array.from(bonds.area),
			use: Float32Array.from(use),
			set: Uint16Array.from(bonds.set),
			rooted: Uint8Array.from(bonds.b, (b) => (scene.bonded[b] === 1 ? 0 : 1)),
		},
		sets: bonds.sets.map(({ id }) => id),
		joints: joints.map(({ connector, kind, a, b, from, to }) => ({
			connector,
			kind,
			a: a < count ? a : -1,
			b,
			from: local(a, from),
			to: local(b, to),
			middleA: middle(a),
			middleB: b < 0 ? null : middle(b),
		})),
	};
}
