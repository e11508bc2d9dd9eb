import { layoutById } from "../arrays";
import { BOND_SET } from "../bonds";
import { connectorById } from "../connectors";
import { forceById } from "../forces";
import { methodById } from "../fracture";
import { shapeById, shapeDefaults } from "../shapes";
import {
	type BodySettings,
	type Described,
	type Id,
	type OptionValues,
	objectPath,
	optionDefaults,
	orderedObjects,
	type Shot,
	shownOptions,
} from "../shot";

/** A number of the shot that can be swept, compared and set from the command line. */
export interface ShotNumber {
	/** `break/Breakwater/seed`: made of names, so that people can type it. */
	readonly path: string;
	/** Where it stands in the document. */
	readonly at: readonly (string | number)[];
	/** “Breakwater: Seed” */
	readonly label: string;
	readonly unit: string;
	/** Shown = value × factor. */
	readonly factor: number;
	readonly value: number;
	/** In the document's unit. */
	readonly least: number;
	readonly most: number;
	readonly whole: boolean;
}

interface Limits {
	readonly label: string;
	readonly unit: string;
	readonly factor?: number;
	readonly least: number;
	readonly most: number;
	readonly whole?: boolean | undefined;
}

const SETTINGS: Readonly<Record<"startFrame" | "stepsPerSecond" | "mostParts" | "solverIterations" | "timeScale" | "seed", Limits>> = {
	startFrame: { label: "Simulation from", unit: "", least: -10_000, most: 100_000, whole: true },
	stepsPerSecond: { label: "Steps per second", unit: "1/s", least: 1, most: 1200 },
	mostParts: { label: "Divided up to", unit: "×", least: 1, most: 16, whole: true },
	solverIterations: { label: "Iterations", unit: "", least: 1, most: 64, whole: true },
	timeScale: { label: "Time scale", unit: "×", least: 0.01, most: 100 },
	seed: { label: "Seed", unit: "", least: 0, most: 999_999, whole: true },
};
const GRAVITY = ["x", "height", "z"];

const MATERIAL: Readonly<Record<"density" | "friction" | "bounce", Limits>> = {
	density: { label: "Density", unit: "kg/m³", least: 0.01, most: 100_000 },
	friction: { label: "Friction", unit: "", least: 0, most: 10 },
	bounce: { label: "Bounce", unit: "", least: 0, most: 1 },
};
const STRENGTH: Readonly<Record<"tension" | "shear" | "compression" | "energy", Limits>> = {
	tension: { label: "Tension", unit: "MPa", least: 0, most: 10_000 },
	shear: { label: "Shear", unit: "MPa", least: 0, most: 10_000 },
	compression: { label: "Compression", unit: "MPa", least: 0, most: 10_000 },
	energy: { label: "Fracture energy", unit: "J/m²", least: 0, most: 1e7 },
};
const BODY: Readonly<Partial<Record<keyof BodySettings, Limits>>> = {
	density: { label: "Density", unit: "kg/m³", least: 0.01, most: 100_000 },
	mass: { label: "Mass", unit: "kg", least: 1e-6, most: 1e9 },
	friction: { label: "Friction", unit: "", least: 0, most: 10 },
	bounce: { label: "Bounce", unit: "", least: 0, most: 1 },
	rolling: { label: "Rolling resistance", unit: "", least: 0, most: 1 },
	linearDamping: { label: "Damping", unit: "1/s", least: 0, most: 100 },
	angularDamping: { label: "Turning damping", unit: "1/s", least: 0, most: 100 },
};

/** Every number that shapes a run and can sensibly be swept, in the order of the stages. Paths are unique. */
export function shotNumbers(shot: Shot): ShotNumber[] {
	const numbers: ShotNumber[] = [];
	const taken = new Set<string>();
	const add = (kind: string, name: string, key: string, at: readonly (string | number)[], value: unknown, limits: Limits) => {
		if (typeof value !== "number") return;
		const wanted = [kind, name, key].filter((part) => part !== "").join("/");
		let path = wanted;
		for (let n = 2; taken.has(path); n++) path = `${wanted} ${n}`;
		taken.add(path);
		const { label, unit, factor = 1, least, most, whole = false } = limits;
		numbers.push({ path, at, label: name === "" ? label : `${name}: ${label}`, unit, factor, value, least, most, whole });
	};
	const options = (kind: string, name: string, at: readonly (string | number)[], described: Described, values: OptionValues) => {
		const all = { ...optionDefaults(described), ...values };
		for (const [key, spec] of shownOptions(described, values)) {
			if (spec.kind !== "number") continue;
			add(kind, name, key, [...at, key], all[key], { ...spec, ...(spec.percent && { unit: "%", factor: 100 }) });
		}
	};
	for (const object of orderedObjects(shot)) {
		const { source } = shot.objects[object]!;
		const name = objectPath(shot, object);
		const at = ["objects", object, "source"];
		if (source.kind === "shape") {
			const shape = shapeById(source.shape);
			if (shape && !shape.endless)
				for (const [key, limits] of Object.entries(shape.parameters))
					add("shape", name, key, [...at, "parameters", key], { ...shapeDefaults(shape), ...source.parameters }[key], limits);
		}
		const layout = source.kind === "array" ? layoutById(source.layout) : undefined;
		if (layout && source.kind === "array") options("copies", name, [...at, "options"], layout, source.options);
	}
	for (const [id, fracture] of sorted(shot.fractures)) {
		const method = methodById(fracture.method);
		if (method) options("break", objectPath(shot, fracture.object), ["fractures", id, "options"], method, fracture.options);
	}
	const used = new Set(Object.values(shot.objects).flatMap(({ material }) => [material, shot.materials[material]?.inside ?? ""]));
	for (const [id, material] of sorted(shot.materials)) {
		if (!used.has(id)) continue;
		for (const key of ["density", "friction", "bounce"] as const)
			add("material", material.name, key, ["materials", id, key], material[key], MATERIAL[key]);
		if (Object.keys(shot.bondSets).length > 0)
			for (const key of ["tension", "shear", "compression", "energy"] as const)
				add("material", material.name, key, ["materials", id, "strength", key], material.strength[key], STRENGTH[key]);
	}
	for (const [id, settings] of sorted(shot.bodies))
		for (const [key, limits] of Object.entries(BODY))
			add("body", objectPath(shot, id), key, ["bodies", id, key], settings[key as keyof BodySettings], limits!);
	for (const [id, { name, options: values }] of sorted(shot.bondSets))
		options("bonds", name, ["bondSets", id, "options"], BOND_SET, values);
	for (const [id, { name, connector, options: values }] of sorted(shot.connectors)) {
		const described = connectorById(connector);
		if (described) options("connector", name, ["connectors", id, "options"], described, values);
	}
	for (const object of orderedObjects(shot)) {
		const { source } = shot.objects[object]!;
		const force = source.kind === "force" ? forceById(source.force) : undefined;
		if (force && source.kind === "force")
			options("force", objectPath(shot, object), ["objects", object, "source", "options"], force, source.options);
	}
	for (const [key, limits] of Object.entries(SETTINGS))
		add("settings", "", key, ["settings", key], shot.settings[key as keyof typeof SETTINGS], limits);
	shot.settings.gravity.forEach((value, k) => {
		add("settings", "gravity", GRAVITY[k]!, ["settings", "gravity", k], value, {
			label: `Gravity: ${GRAVITY[k]!}`,
			unit: "m/s²",
			least: -1000,
			most: 1000,
		});
	});
	return numbers;
}

/** The shot with one of its numbers changed. */
export function withNumber(shot: Shot, { at }: Pick<ShotNumber, "at">, value: number): Shot {
	const set = (target: unknown, [key, ...rest]: readonly (string | number)[]): unknown => {
		if (key === undefined) return value;
		if (Array.isArray(target)) return target.map((item, k) => (k === key ? set(item, rest) : item));
		const record = (target ?? {}) as Record<string, unknown>;
		return { ...record, [key]: set(record[key], rest) };
	};
	return set(shot, at) as Shot;
}

/** “0.5 MPa” */
export const formatShotNumber = ({ unit, factor }: Pick<ShotNumber, "unit" | "factor">, value: number): string =>
	`${(value * factor).toLocaleString("en", { maximumSignificantDigits: 6 })}${unit === "" ? "" : ` ${unit}`}`;

const sorted = <T>(map: Readonly<Record<Id, T>>): [Id, T][] => Object.entries(map).sort(([a], [b]) => (a < b ? -1 : 1));
