import type { Mesh } from "../mesh";
import type { Shape, ShapeParameter } from "./types";

export const shapeDefaults = (shape: Shape): Record<string, number> =>
	Object.fromEntries(Object.entries(shape.parameters).map(([name, parameter]) => [name, parameter.default]));

export const shapeTexts = ({ texts = {} }: Shape): Record<string, string> =>
	Object.fromEntries(Object.entries(texts).map(([name, text]) => [name, text.default]));

/** The mesh of a shape; what is not given is as by default. */
export const buildShape = (
	shape: Shape,
	parameters: Readonly<Record<string, number>> = {},
	texts: Readonly<Record<string, string>> = {},
): Mesh => shape.build({ ...shapeDefaults(shape), ...parameters }, { ...shapeTexts(shape), ...texts });

/** A sentence where a parameter is out of its limits; else undefined. What is not given is as by default: shapes gain parameters. */
export function shapeProblem(
	shape: Shape,
	given: Readonly<Record<string, number>>,
	texts: Readonly<Record<string, string>> = {},
): string | undefined {
	const parameters = { ...shapeDefaults(shape), ...given };
	for (const [name, { label, least, most, unit }] of Object.entries(shape.parameters)) {
		const value = parameters[name];
		if (!(value! >= least && value! <= most)) return `${label} must lie between ${least} and ${most}${unit && ` ${unit}`}.`;
	}
	for (const [name, { label, most }] of Object.entries(shape.texts ?? {}))
		if ((texts[name] ?? "").length > most) return `${label} may have up to ${most} characters.`;
	return shape.problem?.(parameters, texts);
}

/** A length in metres. */
export const length = (label: string, fallback: number, help: string, least = 0.0005): ShapeParameter => ({
	label,
	unit: "m",
	default: fallback,
	least,
	most: 10_000,
	help,
});

export const whole = (label: string, fallback: number, least: number, most: number, help: string): ShapeParameter => ({
	label,
	unit: "",
	default: fallback,
	least,
	most,
	whole: true,
	help,
});
