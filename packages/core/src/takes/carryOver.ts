import { type Body, bodyPose, poseInside, poseOutside } from "../bodies";
import { type Chunk, type FrameStore, NO_EVENTS, POSE_STRIDE } from "../cache";
import { bad, good, type Outcome } from "../common";
import { quatAt, type Vec3, vec3 } from "../maths";
import { bounds, containment, type Mesh } from "../mesh";
import { type Shot, tickOfFrame } from "../shot";
import { Kind, type SimScene } from "../simulation";

export interface CarriedOver {
	/** The frames of the coarse run, with the bodies of the fine shot. */
	readonly store: FrameStore;
	/** Bodies that move as something of the coarse run did, and active ones that found nothing to follow. */
	readonly carried: number;
	readonly left: number;
}

/** One side of the transfer: bodies as they stand at the first frame. */
interface Side {
	readonly shot: Shot;
	readonly bodies: readonly Body[];
}

/**
 * The motion of a coarse run on finer pieces: what has the same name follows itself, a piece follows the coarse piece of
 * its object in which its middle lies, or the one nearest to it. Followers keep their place on what they follow, so that
 * pieces of one coarse piece stay together. Nothing is simulated, and what had no contact then has none now.
 */
export function carryOver(
	coarse: Side & { readonly ids: readonly string[]; readonly store: FrameStore },
	fine: Side & { readonly scene: SimScene },
): Outcome<CarriedOver> {
	const { scene } = fine;
	const bodyOf = new Map(fine.bodies.map((body) => [body.id, body]));
	const coarseBodies = new Map(coarse.bodies.map((body) => [body.id, body]));
	const index = new Map(coarse.ids.map((id, i) => [id, i]));
	const guides = new Map<string, Guide[]>();
	for (const body of coarse.bodies)
		if (body.origin === "piece" && index.has(body.id)) {
			const own = guides.get(body.object) ?? [];
			own.push(guideOf(coarse.shot, body));
			guides.set(body.object, own);
		}
	const followed = new Int32Array(scene.shown).fill(-1);
	const seats: ReturnType<typeof poseInside>[] = [];
	let left = 0;
	for (let i = 0; i < scene.shown; i++) {
		const body = bodyOf.get(scene.ids[i]!)!;
		const own = bodyPose(fine.shot, body, 0);
		const guide = body.origin === "piece" ? nearestGuide(guides.get(body.object) ?? [], own.translation) : undefined;
		const leader = guide?.body ?? (body.origin === "piece" ? undefined : coarseBodies.get(body.id));
		const n = leader && index.get(leader.id);
		if (scene.kind[i] === Kind.Active && n === undefined) left++;
		seats.push(leader ? poseInside(bodyPose(coarse.shot, leader, 0), own) : own);
		if (n !== undefined && scene.kind[i] === Kind.Active) followed[i] = n;
	}
	const carried = followed.reduce((sum, n) => sum + Number(n >= 0), 0);
	if (carried === 0) return bad("None of the bodies of the shot moved in that take, nor anything that they could follow.");
	const chunks = coarse.store.chunks.map((chunk) => {
		const poses = new Float32Array(chunk.frames * scene.shown * POSE_STRIDE);
		for (let f = 0; f < chunk.frames; f++) {
			const tick = tickOfFrame(fine.shot.settings, chunk.firstFrame + f);
			for (let i = 0; i < scene.shown; i++) {
				const to = (f * scene.shown + i) * POSE_STRIDE;
				const from = f * chunk.bodies + followed[i]!;
				const pose = followed[i]! >= 0 ? poseOf(chunk, from) : undefined;
				const { translation, rotation } = pose ? poseOutside(pose, seats[i]!) : scene.poseAt(i, tick);
				poses.set(translation, to);
				poses.set(rotation, to + 3);
			}
		}
		// Who hit whom is not known of the finer pieces.
		return { ...chunk, bodies: scene.shown, poses, joints: 0, loads: new Float32Array(0), events: NO_EVENTS };
	});
	return good({ store: { bodies: scene.shown, chunks }, carried, left });
}

/** A coarse piece where it stands at first. */
interface Guide {
	readonly body: Body;
	readonly pose: ReturnType<typeof bodyPose>;
	readonly reach: number;
	inside?: ReturnType<typeof containment>;
}

const guideOf = (shot: Shot, body: Body): Guide => ({
	body,
	pose: bodyPose(shot, body, 0),
	reach: farthest(body.mesh) * body.scale,
});

function farthest(mesh: Mesh): number {
	const { min, max } = bounds(mesh);
	return vec3.length([0, 1, 2].map((k) => Math.max(-min[k]!, max[k]!)) as unknown as Vec3);
}

/** The guide in which a place of the world lies, else the one whose middle is nearest. */
function nearestGuide(guides: readonly Guide[], place: Vec3): Guide | undefined {
	let nearest: Guide | undefined;
	let least = Number.POSITIVE_INFINITY;
	for (const guide of guides) {
		const distance = vec3.length(vec3.subtract(place, guide.pose.translation));
		if (distance < guide.reach) {
			const local = vec3.scale(poseInside(guide.pose, { translation: place, rotation: [0, 0, 0, 1] }).translation, 1 / guide.body.scale);
			guide.inside ??= containment(guide.body.mesh);
			if (guide.inside(...local)) return guide;
		}
		if (distance < least) [least, nearest] = [distance, guide];
	}
	return nearest;
}

const poseOf = ({ poses }: Chunk, at: number) => ({
	translation: [poses[at * POSE_STRIDE]!, poses[at * POSE_STRIDE + 1]!, poses[at * POSE_STRIDE + 2]!] as Vec3,
	rotation: quatAt(poses.subarray(at * POSE_STRIDE + 3, at * POSE_STRIDE + 7), 0),
});
