import { connectorById, WORLD } from "@rubble/core/connectors";
import { fromTo, type Vec3, vec3 } from "@rubble/core/maths";
import {
	addArray,
	addConnector,
	addObject,
	type Command,
	connectorOf,
	freeName,
	type Id,
	type OptionValues,
	optionDefaults,
	placeObject,
	setBody,
	together,
} from "@rubble/core/shot";
import { newId } from "~/workbench/ids";
import { useWorkbench } from "~/workbench/store/store";
import type { Ends } from "./hanging";

/** The axis along which links of this shape hang: the longest that is not its thin one; 0, 1, 2 for x, height, z. */
function hangAxis(link: Id): number {
	const size = useWorkbench.getState().reports[link]?.size ?? [1, 1, 1];
	return [1, 2, 0].reduce((best, axis) => (size[axis]! > size[best]! * 1.001 ? axis : best), 1);
}

/** Whether something goes through it, so that links of its shape can hang in each other. */
export const isRing = (link: Id): boolean => (useWorkbench.getState().reports[link]?.genus ?? 0) > 0;

/**
 * From link to link of a taut chain: as far as the room inside a ring, less the wire of its neighbour; anything else from end to end.
 * Metres.
 */
export function taut(link: Id): number {
	const report = useWorkbench.getState().reports[link];
	if (!report) return 0.1;
	const long = report.size[hangAxis(link)]!;
	if (!isRing(link)) return long;
	// Of a bent wire of radius r, volume over surface is r / 2.
	const wire = report.area > 0 ? (2 * Math.abs(report.volume)) / report.area : 0;
	return Math.max(0.2 * long, long - 4 * wire);
}

/** Copies in a line downwards, along one of their own axes (0, 1, 2); each is twisted about it against the one before, degrees. */
const downwards = (count: number, pitch: number, axis: number, twist: number) => {
	const along = (value: number) => [0, 1, 2].map((k) => (k === axis ? value : 0));
	const [[stepX, stepY, stepZ], [turnX, turnY, turnZ]] = [along(-pitch), along(twist)];
	return { layout: "line", options: { count, stepX, stepY, stepZ, turnX, turnY, turnZ } as OptionValues };
};

const AXES = ["x", "height", "z"] as const;

/** The same in a line that sags between two places. */
const sagging = ({ from, to }: Ends, count: number, pitch: number, axis: number, twist: number) => {
	const [endX, endY, endZ] = vec3.subtract(to, from);
	return { layout: "hanging", options: { count, pitch, endX, endY, endZ, lies: AXES[axis], twist } as OptionValues };
};

export interface RopePlan {
	readonly length: number;
	/** Radius. */
	readonly thickness: number;
	readonly parts: number;
	/** Moment for each radian that neighbouring parts are bent, N m. */
	readonly bending: number;
	readonly top: Id | "world";
	readonly hero: Id | "";
	/** Where its upper end is; and where its other one, if it does not hang straight down. */
	readonly from: Vec3;
	readonly to?: Vec3 | undefined;
}

/** A rope of short capsules, each pinned to the next, and stiff against bending where wanted. */
export function makeRope({ length, thickness, parts, bending, top, hero, from, to }: RopePlan): void {
	const { shot, perform, select, set } = useWorkbench.getState();
	const [source, array, pins, bends] = [newId(), newId(), newId(), newId()];
	const name = freeName(shot, "Rope");
	const pitch = length / parts;
	const middle: Vec3 = to ? from : [from[0], from[1] - pitch / 2, from[2]];
	const all = (kind: "pin" | "spring", more: Record<string, string | number>) =>
		connectorOf(kind, {
			name: kind === "pin" ? name : `${name} bending`,
			options: { ...optionDefaults(connectorById(kind)!), between: "chain", on: `"${name}/*"`, collide: "no", ...more },
			...(kind === "pin" && { a: top, b: hero }),
			from: middle,
			to: middle,
		});
	perform(
		together("Make rope", [
			addObject({
				id: source,
				name: freeName(shot, `${name} part`),
				source: { kind: "shape", shape: "cylinder", parameters: { radius: thickness, height: pitch } },
				translation: middle,
				material: "oak",
			}),
			addArray({
				id: array,
				name,
				source: {
					kind: "array",
					sources: [source],
					...(to ? sagging({ from, to }, parts, pitch, 1, 0) : downwards(parts, pitch, 1, 0)),
				},
				translation: middle,
				material: "oak",
			}),
			setBody([array], { kind: "active", collider: "capsule" }),
			addConnector(pins, all("pin", {})),
			...(bending > 0
				? [addConnector(bends, all("spring", { acts: "axes", stiffness: 0, damping: 0, turning: bending, turnDamping: bending / 10 }))]
				: []),
		]),
	);
	select([array]);
	set({ bound: { kind: "connector", id: pins } });
}

export interface ChainPlan {
	/** The link that is repeated. */
	readonly link: Id;
	readonly count: number;
	/** What holds its first link: an object, or the world. */
	readonly top: Id | "world";
	/** What hangs from its last link; nothing where empty. */
	readonly hero: Id | "";
	/** Metres from link to link. */
	readonly pitch: number;
	/** A pin between each two links, or nothing but their touching. */
	readonly holds: "pins" | "contacts";
	/** Where it begins and ends, if it does not hang straight down from the link. */
	readonly ends?: Ends | undefined;
}

/** Links that hold by touching alone begin so much nearer to each other than taut: their colliders are a little thicker than they. */
export const SLACK = 0.9;
/** And take so many hulls, so that they are not much thicker. */
const RING_HULLS = 32;

/**
 * A chain of real links from one: copies in a line downwards, rings each turned by a quarter, each joined to the next; the first to
 * what holds it, the last to what hangs. Links touch as they are seen, and the joints keep what the touching alone would not.
 */
export function makeChain({ link, count, top, hero, pitch, holds, ends }: ChainPlan): void {
	const { shot, perform, select, set } = useWorkbench.getState();
	const item = shot.objects[link]!;
	const array = newId();
	const connector = newId();
	const name = freeName(shot, `${item.name} chain`);
	const pin = connectorById("pin")!;
	const axis = hangAxis(link);
	const twist = isRing(link) ? 90 : 0;
	const own = [0, 1, 2].map((k) => (k === axis ? 1 : 0)) as unknown as Vec3;
	const commands: Command[] = [
		addArray({
			id: array,
			name,
			source: {
				kind: "array",
				sources: [link],
				...(ends ? sagging(ends, count, pitch, axis, twist) : downwards(count, pitch, axis, twist)),
			},
			translation: ends?.from ?? item.translation,
			material: item.material,
		}),
		...(ends ? [] : [placeObject(array, { rotation: fromTo(own, [0, 1, 0]) })]),
		setBody([array], {
			kind: "active",
			collider: "parts",
			...(holds === "contacts" && { hulls: RING_HULLS, hullError: 0.01 }),
		}),
	];
	const joined = (between: "chain" | "two", a: string, b: string, at: Vec3) =>
		connectorOf("pin", {
			name,
			options: { ...optionDefaults(pin), between, ...(between === "chain" && { on: `"${name}/*"` }), collide: "no" },
			a,
			b,
			from: at,
			to: at,
		});
	const below = (links: number): Vec3 => vec3.add(item.translation, [0, -links * pitch, 0]);
	const hooks = [
		...(top === "" ? [] : [{ id: connector, made: joined("two", `${array}:0`, top === WORLD ? "" : top, ends?.from ?? below(-0.5)) }]),
		...(hero === "" ? [] : [{ id: newId(), made: joined("two", `${array}:${count - 1}`, hero, ends?.to ?? below(count - 0.5)) }]),
	];
	perform(
		together("Make chain", [
			...commands,
			...(holds === "pins"
				? [addConnector(connector, joined("chain", top, hero, item.translation))]
				: hooks.map(({ id, made }) => addConnector(id, made))),
		]),
	);
	select([array]);
	if (useWorkbench.getState().shot.connectors[connector]) set({ bound: { kind: "connector", id: connector } });
}
