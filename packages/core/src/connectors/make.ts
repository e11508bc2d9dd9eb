import { type Body, bodyPose, centreOf, membersOf } from "../bodies";
import { rotate, type Vec3, vec3 } from "../maths";
import { type Connector, optionDefaults, type Shot } from "../shot";
import { connectorById } from "./kinds";
import { nearestPairs, neighbourPairs } from "./neighbours";
import type { Joint, JointOptions } from "./types";

/** Every joint of the shot, numbered by `bodies` as `buildBodies` gave them. Bodies that are not there make none. */
export function makeJoints(shot: Shot, bodies: readonly Body[]): Joint[] {
	return Object.keys(shot.connectors)
		.sort()
		.filter((id) => !shot.connectors[id]!.hidden)
		.flatMap((id) => jointsOf(shot, bodies, id));
}

function jointsOf(shot: Shot, bodies: readonly Body[], id: string): Joint[] {
	const connector = shot.connectors[id]!;
	const kind = connectorById(connector.connector);
	if (!kind) return [];
	const options = { ...optionDefaults(kind), ...connector.options } as unknown as JointOptions;
	const joint = (a: number, b: number, from: Vec3, to: Vec3): Joint => ({
		connector: id,
		kind: kind.id,
		a,
		b,
		from,
		to: kind.hasLength ? to : from,
		turn: connector.turn,
		options,
	});
	if (options.between === "two") {
		const a = bodyAt(shot, bodies, connector.a, connector.from);
		const b = connector.b === "" ? -1 : bodyAt(shot, bodies, connector.b, connector.to);
		return a === undefined || b === undefined || a === b ? [] : [joint(a, b, connector.from, connector.to)];
	}
	const list = (options.on ?? "").trim() === "" ? [] : membersOf(shot, bodies, options.on!);
	const places = list.map((i) => middleOf(shot, bodies[i]!));
	if (options.between === "world") return list.map((i, n) => joint(i, -1, places[n]!, places[n]!));
	if (options.between === "nearest" || options.between === "neighbours") {
		const pairs = options.between === "nearest" ? nearestPairs(places) : neighbourPairs(places);
		return pairs.map(([m, n]) => joint(list[m]!, list[n]!, ...between(kind.hasLength, places[m]!, places[n]!)));
	}
	return chain(shot, bodies, connector, list, places).map(([a, b, from, to]) => joint(a, b, ...between(kind.hasLength, from, to)));
}

/** Where a joint without a length holds two bodies: half way. */
const between = (hasLength: boolean, from: Vec3, to: Vec3): [Vec3, Vec3] =>
	hasLength ? [from, to] : [vec3.mix(from, to, 0.5), vec3.mix(from, to, 0.5)];

/** Each body to the next; the first to what the connector names first, the last to what it names second. */
function chain(
	shot: Shot,
	bodies: readonly Body[],
	connector: Connector,
	list: readonly number[],
	places: readonly Vec3[],
): [number, number, Vec3, Vec3][] {
	const pairs: [number, number, Vec3, Vec3][] = [];
	for (let n = 0; n + 1 < list.length; n++) pairs.push([list[n]!, list[n + 1]!, places[n]!, places[n + 1]!]);
	// An end is as far out as half the way to its neighbour.
	const end = (n: number, inner: number): Vec3 =>
		list.length > 1 ? vec3.add(places[n]!, vec3.scale(vec3.subtract(places[n]!, places[inner]!), 0.5)) : places[n]!;
	if (list.length === 0) return [];
	const last = list.length - 1;
	for (const [name, n, inner] of [
		[connector.a, 0, 1],
		[connector.b, last, last - 1],
	] as const) {
		if (name === "") continue;
		const at = end(n, inner);
		const other = name === WORLD ? -1 : bodyAt(shot, bodies, name, at);
		if (other !== undefined && !list.includes(other)) pairs.push([list[n]!, other, at, at]);
	}
	return pairs;
}

/** Names the world as an end of a chain. */
export const WORLD = "world";

/** The body of this id; of an object that is broken or copied, the one whose middle is nearest to the place. */
function bodyAt(shot: Shot, bodies: readonly Body[], id: string, place: Vec3): number | undefined {
	let best: number | undefined;
	let least = Number.POSITIVE_INFINITY;
	for (const [i, body] of bodies.entries()) {
		if (body.settings.kind === "none" || (body.id !== id && body.object !== id)) continue;
		if (body.id === id) return i;
		const distance = vec3.length(vec3.subtract(middleOf(shot, body), place));
		if (distance < least) {
			best = i;
			least = distance;
		}
	}
	return best;
}

/** A body's centre of mass at the first frame, world. */
export function middleOf(shot: Shot, body: Body): Vec3 {
	const { translation, rotation } = bodyPose(shot, body, 0);
	return vec3.add(translation, rotate(rotation, centreOf(body)));
}

/** How long a joint's line is at rest, metres. */
export const jointLength = ({ from, to, options }: Joint): number =>
	options.rest === "given" ? options.length! : vec3.length(vec3.subtract(to, from));

/** Whether it keeps its ends together, or no farther apart than its length: springs and sliders give way. */
export const isFirm = ({ kind }: Pick<Joint, "kind">): boolean => kind !== "spring" && kind !== "slider";

/** How far apart the ends of a firm joint may be, metres. */
export const reachOf = (joint: Joint): number => (joint.kind === "rope" ? jointLength(joint) : 0);
