import { array, lazy, mixed, object, string, ValidationError } from "yup";
import { bad, good, type Outcome } from "../common";
import type { Described, OptionValues } from "./options";
import type { AgainStep, Fracture, Id, OptionValue } from "./types";

/** A set-up of a break without the object that it was made for. */
export interface BreakPreset {
	readonly name: string;
	readonly method: string;
	readonly options: OptionValues;
	readonly again: readonly AgainStep[];
}

const options = lazy((value: unknown) =>
	object(Object.fromEntries(Object.keys((value ?? {}) as object).map((key) => [key, mixed<OptionValue>().required()]))).required(),
);
const schema = object({
	name: string().trim().min(1).max(80).required(),
	method: string().min(1).max(80).required(),
	options,
	again: array(
		object({ method: string().min(1).required(), options, pieces: array(string().required()).required(), rule: string().defined() }),
	).required(),
});

export function parsePreset(value: unknown): Outcome<BreakPreset> {
	try {
		return good(schema.validateSync(value, { strict: true }) as unknown as BreakPreset);
	} catch (error) {
		if (!(error instanceof ValidationError)) throw error;
		return bad(`The preset is not valid: ${error.errors[0]}.`);
	}
}

/** The set-up of a break to be kept. Other objects that it names are left out: they are of this shot alone. */
export function presetOf(
	name: string,
	{ method, options: set, again = [] }: Fracture,
	methodOf: (id: string) => Described | undefined,
): BreakPreset {
	const own = (id: string, values: OptionValues): OptionValues =>
		Object.fromEntries(Object.entries(values).filter(([key]) => !["objects", "places"].includes(methodOf(id)?.options[key]?.kind ?? "")));
	return { name, method, options: own(method, set), again: again.map((step) => ({ ...step, options: own(step.method, step.options) })) };
}

export const fractureBy = ({ method, options: set, again }: BreakPreset, object: Id): Fracture => ({
	object,
	method,
	options: set,
	...(again.length > 0 && { again }),
});
