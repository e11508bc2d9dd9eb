import { pointsOutside } from "../../bodies";
import { quatAt, tripleAt, vec3 } from "../../maths";
import { find, hullDistance, unite } from "../../mesh";
import { addConnector, connectorOf, formatQuantity, objectOf, type Shot, setSettings, substepsPerFrame } from "../../shot";
import { Kind, type SimScene } from "../scene";
import type { Check, Finding } from "./types";

/** With 120 steps a second contacts carry so many times a link's mass; see `contactsNeed`. */
const CARRIED = 10;
const MOST_STEPS = 1200;

/**
 * Steps a second with which links hold each other by contacts alone. Measured on rings of 2 kg that hang in each other, swinging:
 * 20 kg hold at 120, 100 kg tear at 120, 240 and 480 and hold at 960.
 */
const contactsNeed = (ratio: number): number => 120 * (ratio / CARRIED) ** 1.3;

/** Links that hang in each other without connectors, and bear more than contacts carry at these steps. */
export const contactsAlone: Check = {
	id: "contacts-alone",
	find: ({ shot, scene }): Finding[] => {
		if (!scene) return [];
		return chainsOf(scene).flatMap((links) => {
			const lightest = Math.min(...links.map((i) => scene.mass[i]!));
			const [load, mass] = heaviestOn(scene, links);
			const { fps, stepsPerSecond } = shot.settings;
			const needed = Math.ceil(contactsNeed(mass / lightest) / fps);
			if (load < 0 || needed * fps <= stepsPerSecond) return [];
			const objects = [...new Set(links.map((i) => objectOf(shot, scene.ids[i]!)!))];
			return [
				{
					check: "contacts-alone",
					level: "warning" as const,
					about: objects,
					message: `${links.length} links hang in each other by contacts alone, ${formatQuantity(lightest, "mass", 3)} each at least, with ${formatQuantity(mass, "mass", 3)} (${scene.paths[load]}) on them: that needs ${needed} substeps a frame or more, ${substepsPerFrame(shot.settings)} are set. Pins hold at any load.`,
					fixes: [
						...(objects.length === 1 ? [{ label: "Pin each to the next", command: pinChain(shot, objects[0]!) }] : []),
						...(needed * fps <= MOST_STEPS
							? [{ label: `${needed} substeps a frame`, command: setSettings({ stepsPerSecond: needed * fps }) }]
							: []),
					],
				},
			];
		});
	},
};

const pinChain = (shot: Shot, object: string) =>
	addConnector(
		`pins-${object}`,
		connectorOf("pin", {
			name: `Pins of ${shot.objects[object]!.name}`,
			options: { between: "chain", on: `"${shot.objects[object]!.name}/*"` },
		}),
	);

/** The heaviest body that a connector hangs on one of the links, and its mass in kg; −1 for none. */
function heaviestOn({ joints, kind, mass }: SimScene, links: readonly number[]): [body: number, mass: number] {
	const own = new Set(links);
	let heaviest = -1;
	for (const { a, b } of joints)
		for (const [one, other] of [
			[a, b],
			[b, a],
		] as const)
			if (own.has(one) && other >= 0 && !own.has(other) && kind[other] === Kind.Active && !(mass[other]! <= (mass[heaviest] ?? 0)))
				heaviest = other;
	return [heaviest, mass[heaviest] ?? 0];
}

/** Three and more bodies with hollows, each of which reaches into the hollow of the next, where nothing else ties them. */
function chainsOf(scene: SimScene): number[][] {
	const tied = new Set(scene.joints.flatMap(({ a, b }) => [a * scene.count + b, b * scene.count + a]));
	const hollow = Array.from({ length: scene.shown }, (_, i) => i).filter((i) => {
		const { shape } = scene.colliders[i]!;
		return scene.kind[i] === Kind.Active && scene.bonded[i] !== 1 && shape.kind === "hulls" && shape.hulls.length > 2;
	});
	// Along x, so that only near ones are compared.
	const placed = hollow.map((i) => ({ i, points: pointsOf(scene, i), ...spanOf(scene, i) })).sort((p, q) => p.least - q.least || p.i - q.i);
	const root = Int32Array.from({ length: scene.count }, (_, i) => i);
	const linked = new Set<number>();
	for (const [n, one] of placed.entries())
		for (let m = n + 1; m < placed.length && placed[m]!.least <= one.most; m++) {
			const other = placed[m]!;
			const apart = vec3.length(vec3.subtract(tripleAt(scene.position, one.i), tripleAt(scene.position, other.i)));
			if (apart > (scene.size[one.i]! + scene.size[other.i]!) / 2 || tied.has(one.i * scene.count + other.i)) continue;
			if (hullDistance(one.points, other.points) > 0) continue;
			unite(root, one.i, other.i);
			linked.add(one.i).add(other.i);
		}
	const chains = new Map<number, number[]>();
	for (const i of [...linked].sort((a, b) => a - b)) {
		const at = find(root, i);
		chains.set(at, [...(chains.get(at) ?? []), i]);
	}
	return [...chains.values()].filter((links) => links.length > 2);
}

function pointsOf(scene: SimScene, i: number): number[] {
	const { shape } = scene.colliders[i]!;
	const pose = { translation: tripleAt(scene.position, i), rotation: quatAt(scene.rotation, i) };
	return shape.kind === "hulls" ? shape.hulls.flatMap((points) => [...pointsOutside(pose, points)]) : [];
}

const spanOf = (scene: SimScene, i: number) => ({
	least: scene.position[3 * i]! - scene.size[i]! / 2,
	most: scene.position[3 * i]! + scene.size[i]! / 2,
});
