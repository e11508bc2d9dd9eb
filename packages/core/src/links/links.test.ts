import { type Link, setLink, tickOfFrame } from "../shot";
import { shape, shotOf } from "../testing";
import { evaluateLinks, METRES, parseFormula, readLink } from ".";

const coil = { radius: 0.1, wire: 0.01, turns: 6, pitch: 0.05, sides: 8 };
const link = (change: Partial<Link> = {}): Link => ({
	object: "coil",
	property: "pitch",
	source: "weight",
	formula: "-(height - height0) / turns",
	keeps: "top",
	hidden: false,
	...change,
});
const scale = (...links: Link[]) =>
	shotOf(
		shape("coil", "coil", coil, [0, 2, 0]),
		shape("weight", "ball", { radius: 0.1, detail: 2 }, [0, 1.7, 0]),
		...links.map((one, n) => setLink(`l${n}`, one)),
	);

test("a coil's pitch follows its weight: it stretches by just as much as the weight has fallen", () => {
	const made = evaluateLinks(
		scale(link()),
		tickOfFrame(scale().settings, 10),
		() => [0, 1.4, 0],
		() => [0, 1.7, 0],
	);
	expect(made.get("coil")!.parameters!.pitch! * 6 - coil.pitch * 6).toBeCloseTo(0.3, 10);
	expect(made.get("coil")!.keeps).toBe("top");
	// Where the weight is as it was set, so is the coil.
	const still = evaluateLinks(
		scale(link()),
		0,
		() => [0, 1.7, 0],
		() => [0, 1.7, 0],
	);
	expect(still.get("coil")!.parameters!.pitch).toBe(coil.pitch);
});

test("a coil never gets tighter than its wire allows, nor than its limits", () => {
	const made = evaluateLinks(
		scale(link()),
		0,
		() => [0, 3, 0],
		() => [0, 1.7, 0],
	);
	expect(made.get("coil")).toBeUndefined();
});

test("places follow too, and several links of an object add up", () => {
	const made = evaluateLinks(
		scale(link({ property: "height", formula: "(height - height0) / 2" }), link({ property: "x", formula: "x + 0.1" })),
		0,
		() => [1, 1.4, 0],
		() => [0, 1.7, 0],
	);
	expect(made.get("coil")!.moved[1]).toBeCloseTo(-0.15, 10);
	expect(made.get("coil")!.moved[0]).toBeCloseTo(1.1, 10);
});

test.each([
	["height * height", "M^2 and m cannot be added or compared."],
	["heigth", "There is no “heigth”"],
	["(height - ", "cannot be read"],
	["seconds", "S and m cannot be added or compared."],
	["turns + height", "cannot be added"],
	["alert(1)", "There is no “alert( )”"],
	["max(height)", "takes 2 values"],
	["height.constructor", "Only numbers, names"],
	["", "empty"],
])("%s: %s", (formula, message) => {
	expect(readLink(scale(link({ formula })), link({ formula }))).toMatchObject({ ok: false });
	const outcome = readLink(scale(), link({ formula }));
	expect(outcome.ok ? "" : outcome.problems[0]!.message).toContain(message);
});

test("formulas are worth what they say", () => {
	const value = (source: string) => {
		const read = parseFormula(source, { a: METRES, b: METRES }, undefined);
		return read.ok ? read.value.value((name) => ({ a: 3, b: 4 })[name]!) : Number.NaN;
	};
	expect(value("sqrt(a*a + b*b)")).toBe(5);
	expect(value("-(a - 2*b) / 2")).toBe(2.5);
	expect(value("max(a, min(b, 10)) + abs(-1)")).toBe(5);
});

test("things that follow each other are told apart from those that do not", () => {
	const circle = scale(
		link({ property: "height" }),
		link({ object: "weight", source: "coil", property: "height", formula: "height - height0" }),
	);
	const outcome = readLink(circle, circle.links.l0!);
	expect(outcome.ok ? "" : outcome.problems[0]!.message).toContain("circle");
});
