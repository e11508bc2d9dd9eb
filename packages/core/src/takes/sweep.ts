import { bad, good, type Outcome } from "../common";
import type { Shot } from "../shot";
import { formatShotNumber, shotNumbers, withNumber } from "./numbers";

/** A number of the shot and the values it is to take, in the document's unit. */
export interface SweepAxis {
	readonly path: string;
	readonly values: readonly number[];
}

/** What a take has that the shot had not. */
export interface TakeChange {
	readonly path: string;
	readonly label: string;
	/** With its unit, as people read it. */
	readonly text: string;
}

export interface Variant {
	/** “Seed 8 · Tension 0.5 MPa” */
	readonly name: string;
	readonly changes: readonly TakeChange[];
	readonly shot: Shot;
}

const MOST_VARIANTS = 64;

/** One shot for every combination of values, the last axis running fastest; a sentence where something does not fit. */
export function sweep(shot: Shot, axes: readonly SweepAxis[]): Outcome<Variant[]> {
	const known = new Map(shotNumbers(shot).map((number) => [number.path, number]));
	const count = axes.reduce((product, { values }) => product * values.length, 1);
	if (axes.length === 0 || count === 0) return bad("Name a number to sweep and the values it takes.");
	if (count > MOST_VARIANTS) return bad(`That would be ${count.toLocaleString("en")} takes; a sweep makes ${MOST_VARIANTS} at most.`);
	let variants: Variant[] = [{ name: "", changes: [], shot }];
	for (const { path, values } of axes) {
		const number = known.get(path);
		if (!number) return bad(`The shot has no number “${path}”. ${nearest(path, [...known.keys()])}`);
		if (axes.filter((axis) => axis.path === path).length > 1) return bad(`“${path}” is swept twice.`);
		const outside = values.find((value) => !(value >= number.least && value <= number.most));
		if (outside !== undefined)
			return bad(
				`${number.label} lies between ${formatShotNumber(number, number.least)} and ${formatShotNumber(number, number.most)}, not ${formatShotNumber(number, outside)}.`,
			);
		const broken = number.whole ? values.find((value) => !Number.isInteger(value)) : undefined;
		if (broken !== undefined) return bad(`${number.label} takes whole numbers, not ${broken}.`);
		const short = number.label.split(": ").at(-1)!;
		variants = variants.flatMap((variant) =>
			values.map((value) => {
				const text = formatShotNumber(number, value);
				return {
					name: [variant.name, `${short} ${text}`].filter((part) => part !== "").join(" · "),
					changes: [...variant.changes, { path, label: number.label, text }],
					shot: withNumber(variant.shot, number, value),
				};
			}),
		);
	}
	return good(variants);
}

/** `0.5, 1, 2` or `1..5` (steps of 1) or `0.2..1 in 5` (evenly spaced); in the shown unit. */
export function parseValues(text: string, factor = 1): Outcome<number[]> {
	const range = /^\s*(-?[\d.]+)\s*\.\.\s*(-?[\d.]+?)\s*(?:in\s+(\d+)\s*)?$/.exec(text);
	const values: number[] = [];
	if (range) {
		const [from, to] = [Number(range[1]), Number(range[2])];
		const steps = range[3] === undefined ? Math.floor(Math.abs(to - from) + 1 + 1e-9) : Number(range[3]);
		if (!Number.isFinite(from) || !Number.isFinite(to) || steps < 1 || steps > 1000)
			return bad(`“${text}” is no range. Write 1..5, or 0.2..1 in 5.`);
		for (let n = 0; n < steps; n++)
			values.push(range[3] === undefined ? from + Math.sign(to - from) * n : steps === 1 ? from : from + ((to - from) * n) / (steps - 1));
	} else
		for (const part of text.split(/[;,]\s*|\s+/).filter((word) => word !== "")) {
			const value = Number(part);
			if (!Number.isFinite(value)) return bad(`“${part}” is no number. Write values with commas: 0.5, 1, 2.`);
			values.push(value);
		}
	if (values.length === 0) return bad("Write the values with commas: 0.5, 1, 2.");
	return good([...new Set(values.map((value) => Number((value / factor).toPrecision(12))))]);
}

function nearest(path: string, paths: readonly string[]): string {
	const words = path.toLowerCase().split("/");
	const score = (other: string) => words.filter((word) => other.toLowerCase().includes(word)).length;
	const best = [...paths].sort((a, b) => score(b) - score(a))[0];
	return best && score(best) > 0 ? `Did you mean “${best}”?` : "";
}
