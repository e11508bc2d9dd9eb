import { canonicalJson } from "../common";
import { objectPath, type Shot } from "../shot";
import { formatShotNumber, type ShotNumber, shotNumbers } from "./numbers";

/** Something that two or more shots have differently, as texts in their order; “–” where one has it not. */
export interface Difference {
	readonly label: string;
	readonly texts: readonly string[];
}

/** What differs between shots: numbers by name, everything else by what it belongs to. */
export function differences(shots: readonly Shot[]): Difference[] {
	const found: Difference[] = [];
	const numbers = shots.map((shot) => new Map(shotNumbers(shot).map((number) => [number.path, number])));
	for (const path of new Set(numbers.flatMap((map) => [...map.keys()]))) {
		const own = numbers.map((map) => map.get(path));
		const texts = own.map((number) => (number ? formatShotNumber(number, number.value) : "–"));
		if (new Set(texts).size > 1) found.push({ label: own.find((number) => number)!.label, texts });
	}
	for (const { label, of } of PARTS) {
		const parts = shots.map((shot, n) => of(withoutNumbers(shot, [...numbers[n]!.values()])));
		for (const name of new Set(parts.flatMap((part) => [...part.keys()]))) {
			const values = parts.map((part) => part.get(name));
			if (new Set(values).size < 2) continue;
			// What it is in the first is a; others are named by the first that is alike.
			const kinds = [...new Set(values.filter((value) => value !== undefined))];
			found.push({
				label: `${label} ${name}`.trim(),
				texts: values.map((value) => (value === undefined ? "–" : kinds.length === 1 ? "there" : `set-up ${kinds.indexOf(value) + 1}`)),
			});
		}
	}
	return found;
}

type Part = { readonly label: string; readonly of: (shot: Shot) => ReadonlyMap<string, string> };

const named = (label: string, of: (shot: Shot) => Iterable<readonly [string, unknown]>): Part => ({
	label,
	of: (shot) => new Map([...of(shot)].map(([name, value]) => [name, canonicalJson(value)])),
});

const PARTS: readonly Part[] = [
	named("Object", (shot) =>
		Object.entries(shot.objects).map(([id, { name: _, parent: __, order: ___, ...item }]) => [objectPath(shot, id), item]),
	),
	named("Break of", (shot) => Object.values(shot.fractures).map((fracture) => [objectPath(shot, fracture.object), fracture])),
	named("Body", (shot) => Object.entries(shot.bodies).map(([id, settings]) => [objectPath(shot, id), settings])),
	named("Bonds", (shot) => Object.values(shot.bondSets).map((set) => [set.name, set])),
	named("Connector", (shot) => Object.values(shot.connectors).map((connector) => [connector.name, connector])),
	named("Material", (shot) => Object.values(shot.materials).map((material) => [material.name, material])),
	named("Rules", (shot) => (shot.bodyRules.length > 0 ? [["", shot.bodyRules]] : [])),
	named("Single settings", (shot) => (Object.keys(shot.overrides).length > 0 ? [["", shot.overrides]] : [])),
	named("Kept places", (shot) => (shot.keptPlaces ? [["", shot.keptPlaces]] : [])),
	named("Frames", ({ settings }) => [["", [settings.fps, settings.firstFrame, settings.lastFrame]]]),
];

/** The shot with all numbers that are compared by name alike. */
function withoutNumbers(shot: Shot, numbers: readonly ShotNumber[]): Shot {
	const copy = JSON.parse(JSON.stringify(shot)) as Record<string, unknown>;
	for (const { at } of numbers) {
		let target = copy as unknown as Record<string | number, unknown>;
		for (const key of at.slice(0, -1)) target = (target?.[key] ?? {}) as Record<string | number, unknown>;
		delete target[at[at.length - 1]!];
	}
	return copy as unknown as Shot;
}
