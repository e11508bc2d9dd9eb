/** Powers of metre, kilogram, second and radian. */
export type Dimensions = readonly [metre: number, kilogram: number, second: number, radian: number];

/** A unit as its size in SI and what it measures. */
export interface Unit {
	readonly factor: number;
	readonly dimensions: Dimensions;
}

const LENGTH: Dimensions = [1, 0, 0, 0];
const MASS: Dimensions = [0, 1, 0, 0];
const TIME: Dimensions = [0, 0, 1, 0];
const ANGLE: Dimensions = [0, 0, 0, 1];
const FORCE: Dimensions = [1, 1, -2, 0];
const PRESSURE: Dimensions = [-1, 1, -2, 0];
const ENERGY: Dimensions = [2, 1, -2, 0];
export const BARE: Dimensions = [0, 0, 0, 0];

const of = (dimensions: Dimensions, factors: Readonly<Record<string, number>>): [string, Unit][] =>
	Object.entries(factors).map(([name, factor]) => [name, { factor, dimensions }]);

/** Units of the trade by what people write. Powers and products are made of them: `kg/m³`, `N m`. */
const UNITS: ReadonlyMap<string, Unit> = new Map([
	...of(LENGTH, { µm: 1e-6, mm: 1e-3, cm: 1e-2, dm: 0.1, m: 1, km: 1e3, in: 0.0254, ft: 0.3048 }),
	...of(MASS, { mg: 1e-6, g: 1e-3, kg: 1, t: 1e3 }),
	...of(TIME, { ms: 1e-3, s: 1, min: 60, h: 3600 }),
	...of(ANGLE, { "°": Math.PI / 180, deg: Math.PI / 180, rad: 1, turn: 2 * Math.PI, turns: 2 * Math.PI }),
	...of(FORCE, { N: 1, kN: 1e3, MN: 1e6 }),
	...of(PRESSURE, { Pa: 1, kPa: 1e3, MPa: 1e6, GPa: 1e9 }),
	...of(ENERGY, { J: 1, kJ: 1e3, MJ: 1e6 }),
	...of([3, 0, 0, 0], { l: 1e-3, L: 1e-3 }),
	...of([0, 0, -1, 0], { Hz: 1 }),
	...of(BARE, { "%": 0.01 }),
]);

/** Frames are a time once it is known how many there are in a second. */
function unitNamed(name: string, fps: number | undefined): Unit | undefined {
	if (fps !== undefined && /^(f|frames?)$/i.test(name)) return { factor: 1 / fps, dimensions: TIME };
	const exact = UNITS.get(name);
	if (exact) return exact;
	// “CM” and “mpa” are meant well; “mPa” is a thousandth of a pascal, which nobody means here.
	const alike = [...UNITS].filter(([known]) => known.toLowerCase() === name.toLowerCase());
	const isClear = name === name.toLowerCase() || name === name.toUpperCase() || alike[0]?.[0][0] === name[0];
	return alike.length === 1 && isClear ? alike[0]![1] : undefined;
}

const FACTOR = /([a-zµμ°%]+)(?:\^?(-?\d)|([²³]))?/iy;
const JOINT = /\s*[/·*]\s*(?=[a-zµμ°])|[ \u00a0](?=[a-zµμ°])/iy;

/** One factor of a unit (`m²`) at a place of a text. */
function factorAt(text: string, at: number, fps: number | undefined): { readonly unit: Unit; readonly end: number } | undefined {
	FACTOR.lastIndex = at;
	const match = FACTOR.exec(text);
	const unit = match && unitNamed(match[1]!.replace("μ", "µ"), fps);
	if (!unit) return undefined;
	const power = match[2] ? Number(match[2]) : match[3] === "²" ? 2 : match[3] === "³" ? 3 : 1;
	return { unit: powerOf(unit, power), end: FACTOR.lastIndex };
}

/** A thousandth of a thousandth is a millionth, to the last digit; and by no function that engines compute differently. */
const clean = (factor: number): number => Number(factor.toPrecision(15));

function powerOf({ factor, dimensions }: Unit, power: number): Unit {
	let size = 1;
	for (let k = 0; k < Math.abs(power); k++) size *= factor;
	return { factor: clean(power < 0 ? 1 / size : size), dimensions: dimensions.map((one) => one * power) as unknown as Dimensions };
}
const product = (a: Unit, b: Unit): Unit => ({
	factor: clean(a.factor * b.factor),
	dimensions: a.dimensions.map((one, k) => one + b.dimensions[k]!) as unknown as Dimensions,
});

/** A unit at a place of a text, as far as it goes, and where it ends; undefined where none stands there. `/s` is one, too. */
export function unitAt(text: string, at: number, fps?: number): { readonly unit: Unit; readonly end: number } | undefined {
	let sign = text[at] === "/" ? -1 : 1;
	let next = sign < 0 ? at + 1 : at;
	let made: { readonly unit: Unit; readonly end: number } | undefined;
	for (;;) {
		const one = factorAt(text, next, fps);
		// What a joint leads to may be no unit: then it belongs to the sum.
		if (!one) return made;
		const signed = powerOf(one.unit, sign);
		made = { unit: made ? product(made.unit, signed) : signed, end: one.end };
		JOINT.lastIndex = one.end;
		const joint = JOINT.exec(text)?.[0];
		if (joint === undefined) return made;
		sign = joint.includes("/") ? -1 : 1;
		next = one.end + joint.length;
	}
}

/** A whole text as a unit: `kg/m³`, `1/s`; undefined where it is none. */
export function parseUnit(text: string, fps?: number): Unit | undefined {
	const source = text.trim().replace(/^1\s*(?=\/)/, "");
	const found = source === "" ? undefined : unitAt(source, 0, fps);
	return found?.end === source.length ? found.unit : undefined;
}

export const sameDimensions = (a: Dimensions, b: Dimensions): boolean => a.every((power, k) => power === b[k]);

/** What a unit measures, for sentences: “a length”. */
export function dimensionName(dimensions: Dimensions): string {
	const known = [...KINDS].find(([, one]) => sameDimensions(one, dimensions));
	return known ? known[0] : "another kind of number";
}
const KINDS: ReadonlyMap<string, Dimensions> = new Map([
	["a bare number", BARE],
	["a length", LENGTH],
	["an area", [2, 0, 0, 0]],
	["a volume", [3, 0, 0, 0]],
	["a mass", MASS],
	["a time", TIME],
	["an angle", ANGLE],
	["a speed", [1, 0, -1, 0]],
	["an acceleration", [1, 0, -2, 0]],
	["a turning speed", [0, 0, -1, 1]],
	["a density", [-3, 1, 0, 0]],
	["a force", FORCE],
	["a pressure", PRESSURE],
	["an energy", ENERGY],
	["a rate", [0, 0, -1, 0]],
]);
