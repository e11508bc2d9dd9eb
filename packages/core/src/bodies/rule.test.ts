import { matchesRule, parseRule, type RuleFacts } from "./rule";

const facts: RuleFacts = {
	path: "East pier/00017",
	words: new Set(["piece", "active", "concrete"]),
	columns: { volume: 0.012, mass: 28.8, height: 2.5 },
	isIn: () => false,
};
const fits = (rule: string): boolean => {
	const parsed = parseRule(rule);
	if (!parsed.ok) throw new Error(parsed.problems[0]!.message);
	return matchesRule(parsed.value, facts);
};
const problem = (rule: string): string => {
	const parsed = parseRule(rule);
	return parsed.ok ? "" : parsed.problems[0]!.message;
};

test.each([
	["", true],
	["pier", true],
	["pier, piece, volume < 0.02", true],
	["volume < 20 dm³", true],
	["volume < 11 dm3", false],
	["volume<12000cm³", false],
	["volume <= 12 dm³", true],
	["mass > 25 kg and height >= 2 m", true],
	["object or (active and not passive)", true],
	["not active", false],
	["*/000*", true],
	["0001*", true],
	["*/0002*", false],
	["concrete", true],
	['"east pier" piece', true],
	["wall or buoy", false],
	["mass = 28.8", true],
	["mass != 28.8", false],
])("“%s” → %s", (rule, expected) => expect(fits(rule)).toBe(expected));

test.each([
	["volume <", /number is missing/],
	["weight > 3", /no column “weight”/],
	["volume < 3 kg", /no unit of volume/],
	["(piece", /closing bracket/],
	["< 3", /needs something before/],
	["piece and", /ends too early/],
	["piece )", /does not belong/],
])("“%s” is refused", (rule, message) => expect(problem(rule)).toMatch(message));
