import { type Body, bodyPose, poseInside } from "../bodies";
import { vec3 } from "../maths";
import { objectOf, type Shot } from "../shot";

/** What a piece was broken out of; undefined for whole things. */
export function brokenSolid(shot: Shot, id: string): string | undefined {
	const [home] = id.split(":");
	if (!shot.fractures[home!]) return undefined;
	return shot.objects[objectOf(shot, id)!]?.source.kind === "array" ? id.slice(0, id.indexOf("/")) : home;
}

/** Pieces that have moved against each other by less than this stand as they were broken. m */
const UNMOVED = 1e-4;

/**
 * Whether two bodies are pieces of one solid that stand to each other as they were broken: what collides of them may reach into
 * each other, where it is not convex. Not so once they have parted, which kept places tell.
 */
export function makeUnparted(shot: Shot, bodies: readonly Body[]): (a: number, b: number) => boolean {
	const solids = bodies.map(({ id }) => brokenSolid(shot, id));
	return (a, b) => {
		if (solids[a] === undefined || solids[a] !== solids[b]) return false;
		const [one, other] = [bodies[a]!, bodies[b]!];
		if (!one.kept && !other.kept) return true;
		const offset = (first: Body, second: Body) => poseInside(bodyPose(shot, first, 0), bodyPose(shot, second, 0)).translation;
		const before = (body: Body): Body => ({ ...body, kept: undefined });
		return vec3.length(vec3.subtract(offset(one, other), offset(before(one), before(other)))) < UNMOVED;
	};
}
