import type { Body, BuiltShot } from "@rubble/core/bodies";
import { slabsOf } from "@rubble/core/bonds";
import { type Joint, type JointMarks, jointMarks } from "@rubble/core/connectors";
import { inverse, quatAt, rotate, tripleAt, type Vec3, vec3 } from "@rubble/core/maths";
import type { Shot } from "@rubble/core/shot";
import { restingUse, type SimScene } from "@rubble/core/simulation";
import type { Ties } from "./messages";

/** Bonds and joints of a scene as lines between their bodies, with what they bear. */
export function tiesOf(shot: Shot, { bodies }: BuiltShot, scene: SimScene): Ties {
	const { bonds, joints, count } = scene;
	const scaleOf = new Map<string, Body>(bodies.map((body) => [body.id, body]));
	// Drawn bodies have their size in their frames.
	const scale = scene.ids.map((id) => scaleOf.get(id)?.scale ?? 1);
	const local = (i: number, place: Vec3): Vec3 => {
		if (i < 0) return place;
		return vec3.scale(rotate(inverse(quatAt(scene.rotation, i)), vec3.subtract(place, tripleAt(scene.position, i))), 1 / scale[i]!);
	};
	const middle = (i: number): Vec3 => vec3.scale(tripleAt(scene.centre, i), 1 / scale[i]!);
	const bondEnds = new Float32Array(6 * bonds.count);
	const use = restingUse(scene);
	const groups = slabsOf(shot, bodies);
	const numberOf = new Map(bodies.map(({ id }, i) => [id, i]));
	for (let k = 0; k < bonds.count; k++) {
		const [a, b] = [bonds.a[k]!, bonds.b[k]!];
		bondEnds.set(middle(a), 6 * k);
		bondEnds.set(scene.bonded[b] === 1 ? middle(b) : local(b, tripleAt(bonds.centre, k)), 6 * k + 3);
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
		slabs: Int32Array.from(scene.ids, (id) => groups.slab[numberOf.get(id) ?? -1] ?? -1),
		chunks: Int32Array.from(scene.ids, (id) => groups.chunk[numberOf.get(id) ?? -1] ?? -1),
		sets: bonds.sets.map(({ id }) => id),
		joints: joints.map((joint) => {
			const { connector, kind, a, b, from, to } = joint;
			const { held, moving } = marksOf(scene, joint);
			const inFrame = (i: number, lines: JointMarks["held"]) => lines.flatMap(([one, other]) => [...local(i, one), ...local(i, other)]);
			return {
				connector,
				kind,
				a: a < count ? a : -1,
				b,
				from: local(a, from),
				to: local(b, to),
				middleA: middle(a),
				middleB: b < 0 ? null : middle(b),
				held: inFrame(b, held),
				moving: inFrame(a, moving),
			};
		}),
	};
}

/** How large the axis and the stops of a joint are drawn, as a share of the longest edge of what it holds. */
const MARK_SIZE = 0.4;

function marksOf({ position, rotation, centre, size }: SimScene, joint: Joint): JointMarks {
	const i = joint.a;
	const middle = vec3.add(tripleAt(position, i), rotate(quatAt(rotation, i), tripleAt(centre, i)));
	return jointMarks(joint, middle, MARK_SIZE * size[i]!);
}
