import { bad, good, type Outcome } from "../common";
import { unitFactor } from "../shot/quantity";

/** What a rule can ask of an object or a piece. Numbers in SI units. */
export interface RuleFacts {
	/** `Breakwater/00017` */
	readonly path: string;
	/** `piece`, `copy` or `object`, the kind of body, `hidden`, `locked`, the material's name in lower case. */
	readonly words: ReadonlySet<string>;
	readonly columns: Readonly<Record<string, number>>;
	/** Whether it stands in a region of this name, in lower case, at the first frame. */
	readonly isIn: (region: string) => boolean;
}

/** Columns a rule may compare, with the dimension of the units that fit. */
export const RULE_COLUMNS: Readonly<Record<string, string>> = {
	volume: "volume",
	mass: "mass",
	area: "area",
	height: "length",
	size: "length",
	triangles: "",
	neighbours: "",
	/** How far from the nearest line that its break was drawn by. */
	stroke: "length",
};

const WORDS = new Set(["piece", "object", "copy", "active", "passive", "animated", "none", "hidden", "locked", "all"]);

export type RuleTree =
	| { readonly kind: "and" | "or"; readonly parts: readonly RuleTree[] }
	| { readonly kind: "not"; readonly part: RuleTree }
	| { readonly kind: "word"; readonly word: string }
	| { readonly kind: "name"; readonly pattern: string }
	| { readonly kind: "in"; readonly region: string }
	| { readonly kind: "compare"; readonly column: string; readonly operator: string; readonly value: number };

/**
 * Reads a rule: names with `*`, words, `in` a region, comparisons with units, `and or not`, brackets; a comma means `and`.
 * `pier, piece, volume < 20 dm³` are the small pieces of everything called pier.
 */
export function parseRule(text: string): Outcome<RuleTree> {
	const tokens = text.match(/"[^"]*"|[<>]=?|!=|=|[(),]|[^\s<>=!(),"]+/g) ?? [];
	let at = 0;
	const peek = () => tokens[at]?.toLowerCase();
	const fail = (message: string): never => {
		throw new RuleError(message);
	};
	const parseOr = (): RuleTree => {
		const parts = [parseAnd()];
		while (peek() === "or") {
			at++;
			parts.push(parseAnd());
		}
		return parts.length === 1 ? parts[0]! : { kind: "or", parts };
	};
	const parseAnd = (): RuleTree => {
		const parts = [parseNot()];
		while (at < tokens.length && peek() !== "or" && peek() !== ")") {
			if (peek() === "and" || peek() === ",") at++;
			parts.push(parseNot());
		}
		return parts.length === 1 ? parts[0]! : { kind: "and", parts };
	};
	const parseNot = (): RuleTree => {
		let negated = false;
		while (peek() === "not") {
			at++;
			negated = !negated;
		}
		const part = parseTerm();
		return negated ? { kind: "not", part } : part;
	};
	let depth = 0;
	const parseTerm = (): RuleTree => {
		const token = tokens[at++];
		if (token === undefined) return fail("the rule ends too early");
		if (token === "(") {
			if (++depth > MOST_BRACKETS) fail(`it has more than ${MOST_BRACKETS} brackets in each other`);
			const inner = parseOr();
			if (tokens[at++] !== ")") fail("a closing bracket is missing");
			depth--;
			return inner;
		}
		if (/^[<>=!,)]/.test(token)) fail(`“${token}” needs something before it`);
		const lower = token.toLowerCase();
		const operator = tokens[at];
		if (operator !== undefined && /^([<>]=?|=|!=)$/.test(operator)) {
			if (!Object.hasOwn(RULE_COLUMNS, lower)) fail(`there is no column “${token}”; try ${Object.keys(RULE_COLUMNS).join(", ")}`);
			at++;
			return { kind: "compare", column: lower, operator, value: parseValue(lower) };
		}
		if (lower === "in") {
			const region = tokens[at++];
			if (region === undefined || /^[<>=!,()]/.test(region)) fail("the name of a region is missing after “in”");
			return { kind: "in", region: region!.replaceAll('"', "").toLowerCase() };
		}
		if (WORDS.has(lower)) return { kind: "word", word: lower };
		return { kind: "name", pattern: token.replaceAll('"', "").toLowerCase() };
	};
	const parseValue = (column: string): number => {
		const token = tokens[at++] ?? fail("a number is missing after the comparison");
		const match = /^(-?\d*\.?\d+(?:e[+-]?\d+)?)(.*)$/i.exec(token) ?? fail(`“${token}” is not a number`);
		let unit = match[2]!;
		if (!unit && tokens[at] !== undefined && unitFactor(tokens[at]!)) unit = tokens[at++]!;
		if (!unit) return Number(match[1]);
		const known = unitFactor(unit);
		if (!known || known.dimension !== RULE_COLUMNS[column]) return fail(`“${unit}” is no unit of ${column}`);
		return Number(match[1]) * known.factor;
	};
	if (tokens.length === 0) return good({ kind: "word", word: "all" });
	try {
		const tree = parseOr();
		return at < tokens.length ? bad(`Rule: “${tokens[at]}” does not belong there.`) : good(tree);
	} catch (error) {
		if (error instanceof RuleError) return bad(`Rule: ${error.message}.`);
		throw error;
	}
}

class RuleError extends Error {}

const MOST_BRACKETS = 100;

export function matchesRule(tree: RuleTree, facts: RuleFacts): boolean {
	switch (tree.kind) {
		case "and":
			return tree.parts.every((part) => matchesRule(part, facts));
		case "or":
			return tree.parts.some((part) => matchesRule(part, facts));
		case "not":
			return !matchesRule(tree.part, facts);
		case "word":
			return tree.word === "all" || facts.words.has(tree.word);
		case "name":
			return matchesName(tree.pattern, facts.path.toLowerCase()) || facts.words.has(tree.pattern);
		case "in":
			return facts.isIn(tree.region);
		case "compare": {
			const value = facts.columns[tree.column];
			if (value === undefined) return false;
			switch (tree.operator) {
				case "<":
					return value < tree.value;
				case "<=":
					return value <= tree.value;
				case ">":
					return value > tree.value;
				case ">=":
					return value >= tree.value;
				case "=":
					return value === tree.value;
				default:
					return value !== tree.value;
			}
		}
	}
}

/** Without `*` any part of the path will do; with it the whole path or its last name must fit. */
function matchesName(pattern: string, path: string): boolean {
	if (!pattern.includes("*")) return path.includes(pattern);
	const parts = pattern.split("*");
	return fits(parts, path) || fits(parts, path.slice(path.lastIndexOf("/") + 1));
}

/**
 * Whether a text is these parts with anything between them. Each inner part is taken where it comes first, which never spoils a
 * later one, so that the cost is that of one search, whatever the pattern.
 */
function fits(parts: readonly string[], text: string): boolean {
	const [first, last] = [parts[0]!, parts[parts.length - 1]!];
	if (text.length < first.length + last.length || !text.startsWith(first) || !text.endsWith(last)) return false;
	const end = text.length - last.length;
	let at = first.length;
	for (const part of parts.slice(1, -1)) {
		const found = text.indexOf(part, at);
		if (found < 0 || found + part.length > end) return false;
		at = found + part.length;
	}
	return true;
}
