import type { Draft } from "immer";
import { plainCopy } from "../../common";
import { rotate, type Vec3, vec3 } from "../../maths";
import type { Command } from "../edit";
import { freeName, objectOf } from "../names";
import { derivedWith, optionsWith, settingsWith, sourceWith, topmost, withInside } from "../references";
import type { Connector, Fracture, Id, SceneObject, Shot } from "../types";
import { renumber } from "./order";

/**
 * Copies of objects with all that they hold: children, breaks, what is set and keyed for them and for single pieces, and the
 * links and connectors among them or from them to the world. Where they name each other the copies name the copies.
 * `offset`: metres, in the frame of each one's parent.
 */
export const duplicateObjects = (ids: readonly Id[], newId: () => Id, offset: Vec3): Command => ({
	name: ids.length === 1 ? "Duplicate" : `Duplicate ${ids.length} objects`,
	apply: (draft) => {
		const shot = plainCopy(draft) as Shot;
		const tops = new Set(topmost(shot, ids));
		const copied = withInside(shot, ids);
		const objects = new Map(copied.map((id) => [id, newId()]));
		const broken = Object.entries(shot.fractures).filter(([, { object }]) => objects.has(object));
		const fractures = new Map(broken.map(([id]) => [id, newId()]));
		const object = (id: Id): Id => objects.get(id) ?? id;
		const derived = (id: string): string => derivedWith(shot, id, object, (fracture) => fractures.get(fracture) ?? fracture);
		/** Which of those that were asked for it goes along with. */
		const topOf = (id: Id): Id => (tops.has(id) ? id : topOf(shot.objects[id]!.parent!));
		const isCopied = (id: string): boolean => objects.has(objectOf(shot, id) ?? "");
		copied.forEach((id, nth) => {
			const item = shot.objects[id]!;
			draft.objects[object(id)] = {
				...item,
				...(tops.has(id) && {
					name: freeName(draft as Shot, item.name, item.parent),
					translation: vec3.add(item.translation, offset),
				}),
				parent: item.parent === null ? null : object(item.parent),
				source: sourceWith(item.source, object),
				order: item.order + (nth + 1) / (copied.length + 1),
			} as Draft<SceneObject>;
			if (shot.bodies[id]) draft.bodies[object(id)] = settingsWith(shot.bodies[id], object) as Draft<Shot>["bodies"][Id];
		});
		for (const [id, fracture] of broken)
			draft.fractures[fractures.get(id)!] = {
				...fracture,
				object: object(fracture.object),
				options: optionsWith(fracture.options, object),
				...(fracture.again && { again: fracture.again.map((step) => ({ ...step, options: optionsWith(step.options, object) })) }),
			} as Draft<Fracture>;
		for (const [id, settings] of Object.entries(shot.overrides))
			if (isCopied(id)) draft.overrides[derived(id)] = settingsWith(settings, object) as Draft<Shot>["overrides"][string];
		for (const [id, motion] of Object.entries(shot.motions ?? {}))
			if (isCopied(id)) draft.motions![derived(id)] = motion as NonNullable<Draft<Shot>["motions"]>[string];
		for (const link of Object.values(shot.links))
			if (isCopied(link.object)) draft.links[newId()] = { ...link, object: object(link.object), source: object(link.source) };
		for (const connector of Object.values(shot.connectors)) {
			const ends = [connector.a, connector.b].filter((id) => id !== "");
			if ((connector.options.between ?? "two") !== "two" || !ends.every(isCopied)) continue;
			const moved = outside(shot, shot.objects[topOf(objectOf(shot, connector.a)!)]!.parent, offset);
			draft.connectors[newId()] = {
				...connector,
				a: derived(connector.a),
				b: connector.b && derived(connector.b),
				from: vec3.add(connector.from, moved),
				to: vec3.add(connector.to, moved),
			} as Draft<Connector>;
		}
		renumber(draft);
	},
});

/** A move in an object's frame as one of the world, as the object rests. */
const outside = (shot: Shot, id: Id | null, move: Vec3): Vec3 => {
	const item = shot.objects[id ?? ""];
	return item ? outside(shot, item.parent, rotate(item.rotation, vec3.multiply(move, item.scale))) : move;
};
