import { EventKind, type FrameEvents, posesAt } from "../../cache";
import { isFirm, type Joint, jointLength, reachOf } from "../../connectors";
import { vec3 } from "../../maths";
import { formatQuantity, setConnectorOption } from "../../shot";
import { carriedPlace } from "../carriedPlace";
import type { SimScene } from "../scene";
import { twiceTheSubsteps } from "./twiceTheSubsteps";
import type { Check, Finding } from "./types";

/** Ends may be this far apart: a share of the smaller of what they hold, or of a line's length, and so many metres. */
const SHARE = 0.1;
const LEAST = 5e-3;
/** For so many seconds: what jerks once is no fault. */
const LASTS = 1 / 8;

/** Connectors whose two ends have come apart in the run, though they have not parted. */
export const drawnApart: Check = {
	id: "drawn-apart",
	find: ({ shot, scene, run, events }): Finding[] => {
		if (!scene || !run || run.bodies !== scene.shown || run.chunks.length === 0) return [];
		const last = run.chunks.at(-1)!;
		const { firstFrame, fps } = shot.settings;
		const lasts = Math.max(1, Math.round(LASTS * fps));
		const end = last.firstFrame + last.frames - 1;
		const worst = new Map<string, { frame: number; apart: number }>();
		const since = new Int32Array(scene.joints.length);
		const parted = partedAt(scene, events);
		for (let frame = firstFrame; frame <= end; frame++) {
			const poses = posesAt(run, frame);
			if (!poses) continue;
			for (const [n, joint] of scene.joints.entries()) {
				if (!isFirm(joint) || frame >= parted[n]!) continue;
				const apart = apartBy(scene, poses, joint);
				const allowed = joint.kind === "rope" ? jointLength(joint) : smaller(scene, joint);
				since[n] = apart > Math.max(LEAST, SHARE * allowed) ? since[n]! + 1 : 0;
				if (since[n]! >= lasts && apart > (worst.get(joint.connector)?.apart ?? 0)) worst.set(joint.connector, { frame, apart });
			}
		}
		const ids = [...worst.keys()].sort((x, y) => worst.get(y)!.apart - worst.get(x)!.apart || (x < y ? -1 : 1));
		if (ids.length === 0) return [];
		const { frame, apart } = worst.get(ids[0]!)!;
		const more = ids.length > 1 ? ` and ${ids.length - 1} more are` : " is";
		return [
			{
				check: "drawn-apart",
				level: "warning",
				about: [],
				message: `“${shot.connectors[ids[0]!]!.name}”${more} drawn apart by up to ${formatQuantity(apart, "length", 2)}, at frame ${frame}: the ends are pulled farther than they reach, or by more than such light things pass on in a substep.`,
				fixes: [...twiceTheSubsteps(shot), { label: "Let it break at a load", command: setConnectorOption(ids, "breaks", "load") }],
			},
		];
	},
};

/** 1 per joint: the frame in which it parted; Infinity where it holds. */
function partedAt({ joints }: SimScene, events: FrameEvents | undefined): number[] {
	const frames = new Map<string, number>();
	for (const e of events?.kind.keys() ?? [])
		if (events!.kind[e] === EventKind.Parted) frames.set(`${events!.a[e]} ${events!.b[e]}`, events!.frame[e]!);
	return joints.map(({ a, b }) => frames.get(`${a} ${b}`) ?? Number.POSITIVE_INFINITY);
}

/** How far the ends of a joint are apart beyond its length, metres. */
function apartBy(scene: SimScene, poses: Float32Array, joint: Joint): number {
	const apart = vec3.length(vec3.subtract(carriedPlace(scene, poses, joint.a, joint.from), carriedPlace(scene, poses, joint.b, joint.to)));
	return apart - reachOf(joint);
}

const smaller = ({ size }: SimScene, { a, b }: Joint): number => Math.min(size[a]!, b < 0 ? Number.POSITIVE_INFINITY : size[b]!);
