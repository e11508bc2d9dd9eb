import jsep, { type Expression } from "jsep";
import { bad, good, type Outcome } from "../common";
import { cos, sin } from "../maths";

/** Powers of metres and of seconds; undefined: a bare number, which takes whatever unit is needed. */
export type Unit = readonly [metres: number, seconds: number] | undefined;
export const METRES: Unit = [1, 0];
export const SECONDS: Unit = [0, 1];
export const SPEED: Unit = [1, -1];
export const COUNT: Unit = [0, 0];

/** A formula that can be read, of names whose units are known. */
export interface Formula {
	/** What it is worth with these values of its names; NaN where it has none (a root of less than nothing). */
	readonly value: (of: (name: string) => number) => number;
	readonly unit: Unit;
	/** Names that it uses. */
	readonly names: ReadonlySet<string>;
}

const FUNCTIONS: Readonly<
	Record<string, { readonly count: number; readonly value: (...x: number[]) => number; readonly unit: (...u: Unit[]) => Unit }>
> = {
	abs: { count: 1, value: Math.abs, unit: (u) => u },
	min: { count: 2, value: Math.min, unit: (u, v) => same(u, v) },
	max: { count: 2, value: Math.max, unit: (u, v) => same(u, v) },
	sqrt: { count: 1, value: Math.sqrt, unit: (u) => u && [u[0] / 2, u[1] / 2] },
	sin: { count: 1, value: sin, unit: (u) => bare(u) },
	cos: { count: 1, value: cos, unit: (u) => bare(u) },
};

class FormulaError extends Error {}

const text = (unit: Unit): string =>
	!unit || (unit[0] === 0 && unit[1] === 0)
		? "a number"
		: [unit[0] !== 0 && `m${unit[0] === 1 ? "" : `^${unit[0]}`}`, unit[1] !== 0 && `s${unit[1] === 1 ? "" : `^${unit[1]}`}`]
				.filter(Boolean)
				.join(" ");

function same(a: Unit, b: Unit): Unit {
	if (!a) return b;
	if (!b || (a[0] === b[0] && a[1] === b[1])) return a;
	throw new FormulaError(`${text(a)} and ${text(b)} cannot be added or compared`);
}

function bare(unit: Unit): Unit {
	if (unit && (unit[0] !== 0 || unit[1] !== 0)) throw new FormulaError(`a bare number is needed here, not ${text(unit)}`);
	return COUNT;
}

/** Reads a formula such as `-(height - height0) / turns`. `units`: of the names that it may use. `wanted`: what it must come out as. */
export function parseFormula(source: string, units: Readonly<Record<string, Unit>>, wanted: Unit): Outcome<Formula> {
	if (source.trim() === "") return bad("The formula is empty.");
	let tree: Expression;
	try {
		tree = jsep(source);
	} catch (error) {
		const { description, index } = error as { description?: string; index?: number };
		return bad(
			`The formula cannot be read${index === undefined ? "" : ` at character ${index + 1}`}: ${description ?? "it is not complete"}.`,
		);
	}
	const names = new Set<string>();
	try {
		const unit = unitOf(tree, units, names);
		same(unit, wanted);
		return good({ value: (of) => worthOf(tree, of), unit, names });
	} catch (error) {
		if (!(error instanceof FormulaError)) throw error;
		return bad(`${error.message[0]!.toUpperCase()}${error.message.slice(1)}.`);
	}
}

function unitOf(node: Expression, units: Readonly<Record<string, Unit>>, names: Set<string>): Unit {
	const of = (next: unknown) => unitOf(next as Expression, units, names);
	switch (node.type) {
		case "Literal":
			if (typeof node.value !== "number") throw new FormulaError("only numbers can be written out");
			return undefined;
		case "Identifier": {
			const name = String(node.name);
			if (!Object.hasOwn(units, name)) throw new FormulaError(`there is no “${name}”; there are ${Object.keys(units).join(", ")}`);
			names.add(name);
			return units[name];
		}
		case "UnaryExpression":
			if (node.operator !== "-" && node.operator !== "+") throw new FormulaError(`“${node.operator}” is not known`);
			return of(node.argument);
		case "BinaryExpression": {
			const [a, b] = [of(node.left), of(node.right)];
			switch (node.operator) {
				case "+":
				case "-":
					return same(a, b);
				case "*":
					return a && b ? [a[0] + b[0], a[1] + b[1]] : (a ?? b);
				case "/":
					if (a && b) return [a[0] - b[0], a[1] - b[1]];
					return b ? [-b[0], -b[1]] : a;
				default:
					throw new FormulaError(`“${node.operator}” is not known; there are + − * / and brackets`);
			}
		}
		case "CallExpression": {
			const name = String((node.callee as Expression).name);
			const known = Object.hasOwn(FUNCTIONS, name) ? FUNCTIONS[name]! : undefined;
			const parts = node.arguments as Expression[];
			if (!known) throw new FormulaError(`there is no “${name}( )”; there are ${Object.keys(FUNCTIONS).join(", ")}`);
			if (parts.length !== known.count) throw new FormulaError(`“${name}” takes ${known.count} value${known.count === 1 ? "" : "s"}`);
			return known.unit(...parts.map(of));
		}
		default:
			throw new FormulaError("only numbers, names, + − * / and brackets can be used");
	}
}

function worthOf(node: Expression, of: (name: string) => number): number {
	const value = (next: unknown) => worthOf(next as Expression, of);
	switch (node.type) {
		case "Literal":
			return Number(node.value);
		case "Identifier":
			return of(String(node.name));
		case "UnaryExpression":
			return node.operator === "-" ? -value(node.argument) : value(node.argument);
		case "BinaryExpression": {
			const [a, b] = [value(node.left), value(node.right)];
			return node.operator === "+" ? a + b : node.operator === "-" ? a - b : node.operator === "*" ? a * b : a / b;
		}
		default:
			return FUNCTIONS[String((node.callee as Expression).name)]!.value(...(node.arguments as Expression[]).map(value));
	}
}
