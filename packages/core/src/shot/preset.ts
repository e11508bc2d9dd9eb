import { array, object, string, ValidationError } from "yup";
import { bad, good, type Outcome } from "../common";
import type { Described, OptionValues } from "./options";
import { isStorable } from "./plainText";
import { againStep, fractureStep } from "./schema";
import { type AgainStep, type Fracture, type Id, SHOT_LIMITS } from "./types";

/** A set-up of a break without the object that it was made for. */
export interface BreakPreset {
	readonly name: string;
	readonly method: string;
	readonly options: OptionValues;
	readonly again: readonly AgainStep[];
}

const schema = object({
	name: string().trim().min(1).max(80).required().test("storable", "${path} holds a character that cannot be stored", isStorable),
	...fractureStep,
	again: array(againStep).max(SHOT_LIMITS.steps).required(),
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
