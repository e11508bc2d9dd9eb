import type { Draft } from "immer";
import { plainCopy } from "../../common";
import { ONE, type Quat, rotate, type Vec3, vec3, ZERO } from "../../maths";
import { OBJECT_DEFAULTS } from "../defaults";
import { type Command, together } from "../edit";
import { freeName, objectOf } from "../names";
import type { OptionValues } from "../options";
import { withInside } from "../references";
import type {
	ArraySource,
	Bend,
	BodySettings,
	CameraSource,
	Id,
	LightSource,
	Material,
	MeshFrame,
	ObjectSource,
	OptionValue,
	RegionSource,
	Repair,
	SceneObject,
	Shot,
} from "../types";
import { setBody } from "./bodies";
import { dropMotion } from "./motions";
import { renumber } from "./order";

export interface NewObject {
	readonly id: Id;
	readonly name: string;
	readonly source: ObjectSource;
	readonly translation?: Vec3;
	readonly material?: Id;
}

export const addObject = (item: NewObject): Command => ({
	name: `Add ${item.name}`,
	apply: (shot) => {
		const orders = Object.values(shot.objects).map((o) => o.order);
		put(shot, item.id, {
			...OBJECT_DEFAULTS,
			...(item.translation && { translation: item.translation }),
			...(item.material && { material: item.material }),
			name: freeName(shot as Shot, item.name),
			source: item.source,
			order: orders.length > 0 ? Math.max(...orders) + 1 : 0,
		});
	},
});

/** Takes the objects away with everything that hangs on them. */
export const removeObjects = (ids: readonly Id[]): Command => ({
	name: ids.length === 1 ? "Delete object" : `Delete ${ids.length} objects`,
	apply: (shot) => {
		const doomed = new Set(withInside(shot as Shot, ids));
		for (const id of Object.keys(shot.motions ?? {})) if (doomed.has(objectOf(shot as Shot, id) ?? "")) dropMotion(shot, id);
		for (const id of doomed) {
			delete shot.objects[id];
			delete shot.bodies[id];
		}
		for (const item of Object.values(shot.objects))
			if (item.source.kind === "camera" && item.source.aim !== null && doomed.has(item.source.aim)) item.source.aim = null;
		for (const [id, item] of Object.entries(shot.objects)) {
			if (item.source.kind !== "array") continue;
			item.source.sources = item.source.sources.filter((source) => !doomed.has(source));
			if (item.source.sources.length > 0) continue;
			delete shot.objects[id];
			delete shot.bodies[id];
			doomed.add(id);
		}
		for (const [id, fracture] of Object.entries(shot.fractures)) if (doomed.has(fracture.object)) delete shot.fractures[id];
		for (const [id, link] of Object.entries(shot.links)) if (doomed.has(link.object) || doomed.has(link.source)) delete shot.links[id];
		for (const [id, { a, b, options }] of Object.entries(shot.connectors))
			if ((options.between ?? "two") === "two" && (doomed.has(a) || doomed.has(b))) delete shot.connectors[id];
	},
});

export const renameObject = (id: Id, name: string): Command => ({
	name: `Rename to ${name}`,
	apply: (shot) => {
		const item = shot.objects[id];
		if (!item || item.name === name) return;
		item.name = freeName(shot as Shot, name, item.parent);
	},
});

export interface Placement {
	readonly translation?: Vec3;
	readonly rotation?: Quat;
	readonly scale?: Vec3;
}

export const placeObject = (id: Id, placement: Placement): Command => ({
	name: placement.scale ? "Size" : placement.rotation ? "Turn" : "Move",
	apply: (shot) => {
		const item = shot.objects[id];
		if (!item) return;
		if (placement.translation) item.translation = [...placement.translation];
		if (placement.rotation) item.rotation = [...placement.rotation];
		if (placement.scale) item.scale = [...placement.scale];
	},
});

export const setShapeParameter = (id: Id, parameter: string, value: number): Command => ({
	name: `Set ${parameter}`,
	apply: (shot) => {
		const source = shot.objects[id]?.source;
		if (source?.kind === "shape") source.parameters[parameter] = value;
	},
});

/** Bends an object, or straightens it where there is no bend given; then its keys go too. */
export const setBend = (id: Id, bend: Bend | undefined): Command => ({
	name: bend ? "Bend" : "Straighten",
	apply: (shot) => {
		const item = shot.objects[id];
		if (!item) return;
		if (bend) item.bend = { ...bend };
		else {
			delete item.bend;
			if (item.keys.numbers) delete item.keys.numbers.bend;
		}
	},
});

/** Copies of objects, laid out by rule, which stand in for them. */
export const addArray = (item: Omit<NewObject, "source"> & { readonly source: ArraySource }): Command => ({
	name: `Copy ${item.source.sources.length === 1 ? "object" : `${item.source.sources.length} objects`} in a ${item.source.layout}`,
	apply: (shot) => {
		addObject(item).apply(shot);
		standIn(item.source.sources, [item.id]).apply(shot);
	},
});

export const setArray = (id: Id, change: Partial<Omit<ArraySource, "kind">>): Command => ({
	name: "Change array",
	apply: (shot) => {
		const source = shot.objects[id]?.source;
		if (source?.kind === "array") Object.assign(source, change);
	},
});

export const setArrayOptions = (id: Id, changes: OptionValues): Command => ({
	name: `Set ${Object.keys(changes)[0]}`,
	apply: (shot) => {
		const source = shot.objects[id]?.source;
		if (source?.kind === "array") Object.assign(source.options, changes);
	},
});

/** Holds objects together in a new group, which stands at `at`, metres in the frame of their parent. Children keep their places. */
export const groupObjects = (ids: readonly Id[], group: Id, name: string, at: Vec3 = ZERO): Command => ({
	name: "Group",
	apply: (shot) => {
		const members = ids.filter((id) => shot.objects[id] && !ids.includes(shot.objects[id].parent ?? ""));
		const parent = shot.objects[members[0] ?? ""]?.parent ?? null;
		const inside = members.filter((id) => shot.objects[id]!.parent === parent);
		if (inside.length === 0) return;
		put(shot, group, {
			...OBJECT_DEFAULTS,
			name: freeName(shot as Shot, name, parent),
			parent,
			translation: at,
			source: { kind: "group" },
			order: Math.min(...inside.map((id) => shot.objects[id]!.order)) - 0.5,
		});
		for (const id of inside) {
			const item = shot.objects[id]!;
			item.name = freeName(shot as Shot, item.name, group);
			item.parent = group;
			for (const placed of [item, item.baked]) {
				if (!placed) continue;
				placed.translation = [...vec3.subtract(placed.translation, at)];
				for (const key of placed.keys.translation) key.value = [...vec3.subtract(key.value, at)];
			}
		}
		renumber(shot);
	},
});

const AS_IT_COMES: MeshFrame = { scale: ONE, pivot: ZERO };

/** Moves the pivot to a point of the object's frame; the mesh, and what hangs on the object, stay where they are. */
export const setPivot = (id: Id, at: Vec3): Command => ({
	name: "Move pivot",
	apply: (shot) => {
		const item = shot.objects[id];
		if (!item) return;
		const frame = item.frame ?? AS_IT_COMES;
		const before = vec3.multiply(at, item.scale);
		item.frame = { scale: [...frame.scale], pivot: [...vec3.add(frame.pivot, at)] };
		item.translation = [...vec3.add(item.translation, rotate(item.rotation, before))];
		for (const child of Object.values(shot.objects)) if (child.parent === id) child.translation = [...vec3.subtract(child.translation, at)];
	},
});

/** Takes the size into the mesh itself, so that the size factors are 1 again; children keep their places and sizes. */
export const makeSizeReal = (id: Id): Command => ({
	name: "Make size real",
	apply: (shot) => {
		const item = shot.objects[id];
		if (!item || item.source.kind === "group") return;
		const frame = item.frame ?? AS_IT_COMES;
		const { scale } = item;
		item.frame = { scale: [...vec3.multiply(frame.scale, scale)], pivot: [...vec3.multiply(frame.pivot, scale)] };
		for (const child of Object.values(shot.objects)) {
			if (child.parent !== id) continue;
			child.translation = [...vec3.multiply(child.translation, scale)];
			child.scale = [...vec3.multiply(child.scale, scale)];
		}
		item.scale = [1, 1, 1];
	},
});

/** New objects in place of others, which are kept. What was given as their mass or its centre is no more that of the new ones. */
export const replaceBy = (name: string, old: readonly Id[], made: readonly NewObject[]): Command =>
	together(name, [
		...made.map(addObject),
		standIn(
			old,
			made.map(({ id }) => id),
			{ mass: undefined, centre: undefined },
		),
	]);

/**
 * Others stand in for objects: they get what the first of these is as a body, but for `change`. The objects themselves are hidden and
 * take no part: they would fall unseen among what stands for them.
 */
const standIn = (old: readonly Id[], made: readonly Id[], change: BodySettings = {}): Command => ({
	name: "Stand in",
	apply: (shot) => {
		const settings = shot.bodies[old[0] ?? ""];
		if (settings) setBody(made, { ...(plainCopy(settings) as BodySettings), ...change }).apply(shot);
		setFlags(old, { hidden: true }).apply(shot);
		const bodies = old.filter((id) => shot.bodies[id]);
		setBody(bodies, { kind: "none" }).apply(shot);
	},
});

export const setShapeText = (id: Id, name: string, value: string): Command => ({
	name: `Set ${name}`,
	apply: (shot) => {
		const source = shot.objects[id]?.source;
		if (source?.kind === "shape") source.texts = { ...source.texts, [name]: value };
	},
});

type HelperSource = CameraSource | LightSource | RegionSource;

/** Changes settings of a camera, a light or a region. */
export const setHelper = <K extends HelperSource["kind"]>(
	id: Id,
	kind: K,
	change: Partial<Omit<Extract<HelperSource, { kind: K }>, "kind">>,
): Command => ({
	name: `Set ${kind}`,
	apply: (shot) => {
		const source = shot.objects[id]?.source;
		if (source?.kind === kind) Object.assign(source, change);
	},
});

export const setForceOption = (id: Id, option: string, value: OptionValue): Command => ({
	name: `Set ${option}`,
	apply: (shot) => {
		const source = shot.objects[id]?.source;
		if (source?.kind === "force") source.options[option] = value as Draft<OptionValue>;
	},
});

export const setRepairs = (id: Id, repairs: readonly Repair[]): Command => ({
	name: "Repair mesh",
	apply: (shot) => {
		const source = shot.objects[id]?.source;
		if (source?.kind === "mesh") source.repairs = repairs.map((repair) => ({ ...repair }));
	},
});

export const setFlags = (ids: readonly Id[], flags: { hidden?: boolean; locked?: boolean }): Command => ({
	name: flags.hidden !== undefined ? (flags.hidden ? "Hide" : "Show") : flags.locked ? "Lock" : "Unlock",
	apply: (shot) => {
		for (const id of ids) {
			const item = shot.objects[id];
			if (item) Object.assign(item, flags);
		}
	},
});

export const setMaterial = (ids: readonly Id[], material: Id): Command => ({
	name: "Set material",
	apply: (shot) => {
		for (const id of ids) {
			const item = shot.objects[id];
			if (item) item.material = material;
		}
	},
});

export const editMaterial = (id: Id, change: Partial<Material>): Command => ({
	name: "Edit material",
	apply: (shot) => {
		const item = shot.materials[id];
		if (!item) return;
		Object.assign(item, change);
		if (item.texture === undefined) delete item.texture;
	},
});

/** The fracture that breaks this object, if any. */
export function fractureOf(shot: Shot, object: Id): Id | undefined {
	return Object.keys(shot.fractures)
		.sort()
		.find((id) => shot.fractures[id]!.object === object);
}

function put(shot: Draft<Shot>, id: Id, item: SceneObject): void {
	shot.objects[id] = item as Draft<SceneObject>;
}
