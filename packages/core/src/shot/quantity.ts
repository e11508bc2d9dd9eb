import { bad, good, type Outcome } from "../common";
import { BARE, type Dimensions, dimensionName, parseUnit, sameDimensions, unitAt } from "./units";

/** The factor to SI of a unit of lengths, masses, areas and volumes, with `m3` read as `m³`; undefined for any other. */
export function unitFactor(unit: string): { dimension: string; factor: number } | undefined {
	const known = parseUnit(unit);
	const name = known && dimensionName(known.dimensions).replace(/^an? /, "");
	return known && ["length", "mass", "area", "volume"].includes(name!) ? { dimension: name!, factor: known.factor } : undefined;
}

/** What a number field shows its number in, and what frames are there. */
export interface FieldUnit {
	/** `mm`, `kg/m³`, `°`, `frames`; anything else stands for itself. */
	readonly unit: string;
	/** Frames a second, where frames are known as a time. */
	readonly fps?: number | undefined;
}

/** A number, with what it measures where a unit was written. */
interface Amount {
	readonly value: number;
	readonly dimensions: Dimensions | undefined;
}

class QuantityError extends Error {}

/**
 * What somebody has typed into a field, as the number that the field shows: a number or a small sum with + − × ÷ and brackets, each
 * with a unit or without. A bare number is in the field's own unit; a unit after a bare sum is the unit of all of it (`0.6/2 m`).
 * A comma is read as a decimal point. `240 cm` is 2.4 in a field of metres and 2400 in one of millimetres.
 */
export function readQuantity(text: string, { unit, fps }: FieldUnit = { unit: "" }): Outcome<number> {
	const own = parseUnit(unit, fps);
	const source = normal(text);
	try {
		const whole = ownUnit(source, unit) ?? unitOfSum(source, fps) ?? amountOf(source, own?.dimensions, own?.factor ?? 1, fps);
		const { value, dimensions } = whole;
		if (!Number.isFinite(value)) throw new QuantityError("is no number");
		if (dimensions === undefined) return good(value);
		if (!own || !sameDimensions(dimensions, own.dimensions))
			throw new QuantityError(
				`is ${dimensionName(dimensions)}; ${own ? `${dimensionName(own.dimensions)} is needed here, in ${unit} or any unit of it` : "a bare number is needed here"}`,
			);
		return good(Number((value / own.factor).toPrecision(15)));
	} catch (error) {
		if (!(error instanceof QuantityError)) throw error;
		return bad(`“${text.trim()}” ${error.message}.`);
	}
}

const normal = (text: string): string =>
	text
		.trim()
		.replaceAll(",", ".")
		.replaceAll("×", "*")
		.replaceAll("÷", "/")
		.replaceAll("−", "-")
		.replaceAll("²", "^2")
		.replaceAll("³", "^3");

/** A sum in the very unit that the field shows, whatever that is: `25 fps`. */
function ownUnit(source: string, unit: string): Amount | undefined {
	const shown = normal(unit);
	if (shown === "" || !source.endsWith(shown)) return undefined;
	const sum = source.slice(0, -shown.length);
	return /[a-zµ°%]/i.test(sum.replace(/\de[-+]?\d/gi, ""))
		? undefined
		: { ...amountOf(sum, undefined, 1, undefined), dimensions: undefined };
}

/** A bare sum with one unit after it. */
function unitOfSum(source: string, fps: number | undefined): Amount | undefined {
	const at = source.replace(/\de[-+]?\d/gi, (power) => "0".repeat(power.length)).search(/[a-zµμ°%]/i);
	if (at <= 0) return undefined;
	const found = unitAt(source, at, fps);
	if (found?.end !== source.length || !/[\d.)]\s*$/.test(source.slice(0, at))) return undefined;
	const { value } = amountOf(source.slice(0, at), undefined, 1, fps);
	return { value: value * found.unit.factor, dimensions: found.unit.dimensions };
}

/** By recursive descent. `own`: what bare numbers measure where they meet others in a sum, and the size of their unit. */
function amountOf(source: string, own: Dimensions | undefined, ownFactor: number, fps: number | undefined): Amount {
	let at = 0;
	const space = () => {
		while (source[at] === " " || source[at] === "\u00a0") at++;
	};
	const factor = (): Amount => {
		space();
		if (source[at] === "-" || source[at] === "+") {
			const sign = source[at++] === "-" ? -1 : 1;
			const { value, dimensions } = factor();
			return { value: sign * value, dimensions };
		}
		if (source[at] === "(") {
			at++;
			const inner = sum();
			space();
			if (source[at++] !== ")") throw new QuantityError("lacks a closing bracket");
			return inner;
		}
		const match = /^(\d+\.?\d*|\.\d+)(e[+-]?\d+)?/i.exec(source.slice(at));
		if (!match) throw new QuantityError("is no number; a number or a small sum is needed, such as 0.3*2 or 240 cm");
		at += match[0].length;
		const before = at;
		space();
		const found = unitAt(source, at, fps);
		if (!found) {
			if (/[a-zµ°%]/i.test(source[at] ?? ""))
				throw new QuantityError(`has a unit that is not known: ${source.slice(at).split(/[\s)+*-]/)[0]}`);
			at = before;
			return { value: Number(match[0]), dimensions: undefined };
		}
		at = found.end;
		return { value: Number(match[0]) * found.unit.factor, dimensions: found.unit.dimensions };
	};
	const product = (): Amount => {
		let left = factor();
		for (space(); source[at] === "*" || source[at] === "/"; space()) {
			const sign = source[at++] === "*" ? 1 : -1;
			const right = factor();
			const both = left.dimensions || right.dimensions;
			left = {
				value: sign > 0 ? left.value * right.value : left.value / right.value,
				dimensions:
					both && ((left.dimensions ?? BARE).map((one, k) => one + sign * (right.dimensions ?? BARE)[k]!) as unknown as Dimensions),
			};
		}
		return left;
	};
	const sum = (): Amount => {
		let left = product();
		for (space(); source[at] === "+" || source[at] === "-"; space()) {
			const sign = source[at++] === "+" ? 1 : -1;
			left = add(left, product(), sign);
		}
		return left;
	};
	/** Bare numbers beside others are in the field's unit. */
	const inOwn = (amount: Amount): Amount =>
		amount.dimensions === undefined ? { value: amount.value * ownFactor, dimensions: own ?? BARE } : amount;
	const add = (a: Amount, b: Amount, sign: number): Amount => {
		if (a.dimensions === undefined && b.dimensions === undefined) return { value: a.value + sign * b.value, dimensions: undefined };
		const [left, right] = [inOwn(a), inOwn(b)];
		if (!sameDimensions(left.dimensions!, right.dimensions!))
			throw new QuantityError(`adds ${dimensionName(left.dimensions!)} and ${dimensionName(right.dimensions!)}`);
		return { value: left.value + sign * right.value, dimensions: left.dimensions };
	};
	const value = sum();
	space();
	if (at !== source.length) throw new QuantityError("is no number; a number or a small sum is needed, such as 0.3*2 or 240 cm");
	return value;
}

/** Several quantities that were typed or pasted at once (`0 1.2 -3`, `10 cm; 20 cm`), one text each; undefined where it is one. */
export function splitQuantities(text: string): string[] | undefined {
	const byMarks = text.split(/\s*;\s*|,\s+/);
	if (byMarks.length > 1) return byMarks.map((part) => part.trim()).filter(Boolean);
	const parted = text.trim().split(/\s+(?=[-+−.\d])/);
	const isList = parted.length > 1 && parted.every((part) => /^[-+−]?(\d+[.,]?\d*|[.,]\d+)(e[-+]?\d+)?\s*([a-zµ°%]\S*)?$/i.test(part));
	return isList ? parted : undefined;
}

export type Dimension = "length" | "mass" | "area" | "volume" | "energy" | "force" | "moment";

/** A length, mass … with the unit that keeps it readable: 0.0412 kg → "41.2 g". `digits` significant digits. */
export function formatQuantity(value: number, dimension: Dimension, digits = 3): string {
	if (!Number.isFinite(value)) return "–";
	const size = Math.abs(value);
	const ladder = LADDERS[dimension];
	const step = ladder.find(([least]) => size >= least) ?? ladder[ladder.length - 1]!;
	return `${formatNumber(value / step[1], digits)} ${step[2]}`;
}
const LADDERS: Record<Dimension, readonly (readonly [number, number, string])[]> = {
	length: [
		[1, 1, "m"],
		[0.01, 0.01, "cm"],
		[0, 0.001, "mm"],
	],
	mass: [
		[1000, 1000, "t"],
		[1, 1, "kg"],
		[0, 0.001, "g"],
	],
	area: [
		[1, 1, "m²"],
		[0, 1e-4, "cm²"],
	],
	volume: [
		[1, 1, "m³"],
		[1e-3, 1e-3, "dm³"],
		[0, 1e-6, "cm³"],
	],
	energy: [
		[1000, 1000, "kJ"],
		[0, 1, "J"],
	],
	force: [
		[1e6, 1e6, "MN"],
		[1000, 1000, "kN"],
		[0, 1, "N"],
	],
	moment: [
		[1e6, 1e6, "MN m"],
		[1000, 1000, "kN m"],
		[0, 1, "N m"],
	],
};

/** Significant digits without an exponent, thousands grouped by a comma. */
export function formatNumber(value: number, digits = 3): string {
	if (!Number.isFinite(value)) return "–";
	if (value === 0) return "0";
	const whole = Math.floor(Math.abs(value)).toString().length;
	const decimals = Math.abs(value) >= 1 ? Math.max(0, digits - whole) : Math.min(9, digits + 1);
	const rounded = Number(Math.abs(value) >= 1 ? value.toFixed(decimals) : value.toPrecision(digits));
	const fixed = Math.abs(rounded) >= 1 ? rounded.toFixed(decimals) : rounded.toString();
	const plain = fixed.includes("e") ? Number(fixed).toFixed(12).replace(/0+$/, "").replace(/\.$/, "") : fixed;
	const [integer, fraction] = plain.split(".");
	const grouped = integer!.replace(/\B(?=(\d{3})+$)/g, ",");
	return fraction ? `${grouped}.${fraction}` : grouped;
}
