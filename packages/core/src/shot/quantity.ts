/** Units people type, as factors to SI. */
const UNITS: Readonly<Record<string, { readonly dimension: string; readonly factor: number }>> = {
	mm: { dimension: "length", factor: 1e-3 },
	cm: { dimension: "length", factor: 1e-2 },
	m: { dimension: "length", factor: 1 },
	km: { dimension: "length", factor: 1e3 },
	g: { dimension: "mass", factor: 1e-3 },
	kg: { dimension: "mass", factor: 1 },
	t: { dimension: "mass", factor: 1e3 },
	"mm²": { dimension: "area", factor: 1e-6 },
	"cm²": { dimension: "area", factor: 1e-4 },
	"dm²": { dimension: "area", factor: 1e-2 },
	"m²": { dimension: "area", factor: 1 },
	"mm³": { dimension: "volume", factor: 1e-9 },
	"cm³": { dimension: "volume", factor: 1e-6 },
	"dm³": { dimension: "volume", factor: 1e-3 },
	l: { dimension: "volume", factor: 1e-3 },
	"m³": { dimension: "volume", factor: 1 },
};

/** The factor to SI of a unit, with `m3` read as `m³`; undefined for an unknown one. */
export function unitFactor(unit: string): { dimension: string; factor: number } | undefined {
	return UNITS[unit.replace(/2$/, "²").replace(/3$/, "³")];
}

/**
 * A number or a small sum (`0.3*2`, `1/3 + 2`), with + − × ÷ and brackets; undefined where it is not one.
 * A comma is read as a decimal point.
 */
export function evaluateSum(text: string): number | undefined {
	const source = text.trim().replaceAll(",", ".").replaceAll("×", "*").replaceAll("÷", "/").replaceAll("−", "-");
	let at = 0;
	const space = () => {
		while (source[at] === " ") at++;
	};
	const factor = (): number => {
		space();
		if (source[at] === "-") {
			at++;
			return -factor();
		}
		if (source[at] === "+") {
			at++;
			return factor();
		}
		if (source[at] === "(") {
			at++;
			const value = sum();
			space();
			if (source[at++] !== ")") return Number.NaN;
			return value;
		}
		const match = /^(\d+\.?\d*|\.\d+)(e[+-]?\d+)?/i.exec(source.slice(at));
		if (!match) return Number.NaN;
		at += match[0].length;
		return Number(match[0]);
	};
	const product = (): number => {
		let value = factor();
		for (space(); source[at] === "*" || source[at] === "/"; space()) {
			const operator = source[at++];
			const right = factor();
			value = operator === "*" ? value * right : value / right;
		}
		return value;
	};
	const sum = (): number => {
		let value = product();
		for (space(); source[at] === "+" || source[at] === "-"; space()) {
			const operator = source[at++];
			const right = product();
			value = operator === "+" ? value + right : value - right;
		}
		return value;
	};
	const value = sum();
	space();
	return at === source.length && Number.isFinite(value) ? value : undefined;
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
