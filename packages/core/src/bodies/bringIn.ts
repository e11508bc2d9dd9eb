import { plainCopy } from "../common";
import {
	addObject,
	type BodySettings,
	type Command,
	derivedWith,
	type Fracture,
	freeName,
	type Id,
	type ObjectSource,
	optionsWith,
	orderedObjects,
	type SceneObject,
	type Shot,
	settingsWith,
	sourceWith,
} from "../shot";

/**
 * Everything of another shot, held together by a group of its name, in a world of its own with its gravity: bodies of the
 * two do not meet. `newId` makes ids; materials that are alike are shared.
 */
export function bringIn(other: Shot, newId: () => Id): Command {
	return {
		name: `Bring in ${other.name}`,
		apply: (shot) => {
			const host = shot as unknown as Shot;
			const group = newId();
			const main = newId();
			const ids = new Map<string, Id>();
			const fresh = (old: Id): Id => {
				const made = ids.get(old) ?? newId();
				ids.set(old, made);
				return made;
			};
			const object = (old: Id): Id => fresh(`object ${old}`);
			const fracture = (old: Id): Id => fresh(`fracture ${old}`);
			const worlds = new Map([["", main], ...Object.keys(other.worlds).map((world) => [world, newId()] as const)]);
			const materials = new Map<Id, Id>();
			const materialFor = (old: Id): Id => {
				const known = materials.get(old);
				if (known) return known;
				const wanted = other.materials[old]!;
				const alike = JSON.stringify(host.materials[old]) === JSON.stringify(wanted);
				const id = alike ? old : newId();
				materials.set(old, id);
				if (!alike) shot.materials[id] = { ...wanted, inside: wanted.inside === null ? null : materialFor(wanted.inside) };
				return id;
			};
			const groupName = freeName(host, other.name);
			const within = (rule: string): string => (rule.trim() === "" ? `"${groupName}/*"` : `"${groupName}/*" and (${rule})`);
			const source = (from: ObjectSource): ObjectSource => {
				const own = sourceWith(from, object);
				// Its forces act on what comes with it.
				return own.kind === "force" ? { ...own, options: { ...own.options, on: within(String(own.options.on ?? "")) } } : own;
			};
			const settings = (from: BodySettings): BodySettings => ({
				...settingsWith(from, object),
				...(from.wake?.when === "touched" && from.wake.by && { wake: { ...from.wake, by: within(from.wake.by) } }),
			});
			const derived = (id: string): string => derivedWith(other, id, object, fracture);
			shot.worlds[main] = { name: other.name, gravity: [...other.settings.gravity] };
			for (const [old, id] of worlds) if (old !== "") shot.worlds[id] = plainCopy(other.worlds[old]!) as never;
			addObject({ id: group, name: groupName, source: { kind: "group" } }).apply(shot);
			for (const old of orderedObjects(other)) {
				const item = other.objects[old]!;
				const order = Object.values(host.objects).reduce((most, { order: at }) => Math.max(most, at + 1), 0);
				shot.objects[object(old)] = plainCopy({
					...item,
					parent: item.parent === null ? group : object(item.parent),
					material: materialFor(item.material),
					source: source(item.source),
					order,
				} satisfies SceneObject) as never;
				const own = settings(other.bodies[old] ?? {});
				shot.bodies[object(old)] = plainCopy({ ...own, world: worlds.get(own.world ?? "") ?? main }) as never;
			}
			for (const [old, made] of Object.entries(other.fractures))
				shot.fractures[fracture(old)] = plainCopy({
					...made,
					object: object(made.object),
					options: optionsWith(made.options, object),
					...(made.again && {
						again: made.again.map((step) => ({ ...step, options: optionsWith(step.options, object) })),
					}),
				} as Fracture) as never;
			for (const set of Object.values(other.bondSets))
				shot.bondSets[newId()] = plainCopy({
					...set,
					options: { ...set.options, on: within(String(set.options.on ?? "")) },
					changes: set.changes.map((change) => ({
						...change,
						bodies: change.bodies.map(derived),
						rule: change.rule && within(change.rule),
					})),
					...(set.slabs && { slabs: set.slabs.map((slab) => slab.map(derived)) }),
				}) as never;
			for (const link of Object.values(other.links))
				shot.links[newId()] = plainCopy({ ...link, object: object(link.object), source: object(link.source) }) as never;
			for (const connector of Object.values(other.connectors))
				shot.connectors[newId()] = plainCopy({
					...connector,
					a: derived(connector.a),
					b: connector.b && derived(connector.b),
				}) as never;
			for (const { rule, settings: change } of other.bodyRules)
				shot.bodyRules.push(plainCopy({ id: newId(), rule: within(rule), settings: settings(change) }) as never);
			for (const [id, motion] of Object.entries(other.motions ?? {})) {
				shot.motions ??= {};
				shot.motions[derived(id)] = plainCopy(motion) as never;
			}
			for (const [id, change] of Object.entries(other.overrides)) shot.overrides[derived(id)] = plainCopy(settings(change)) as never;
		},
	};
}
