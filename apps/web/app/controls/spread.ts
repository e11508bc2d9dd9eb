interface Limits {
	readonly unit: string;
	readonly least?: number | undefined;
	readonly most?: number | undefined;
	readonly whole?: boolean | undefined;
}

/** A number as a field takes it: within its limits, whole where it is to be. */
export function limited({ least, most, whole }: Omit<Limits, "unit">, raw: number): number {
	const within = Math.min(most ?? Infinity, Math.max(least ?? -Infinity, raw));
	return whole ? Math.round(within) : within;
}

/**
 * Several numbers that are typed into one field at once: they fill it and the fields after it that have its unit, by name,
 * as far as there are any.
 */
export function spread(
	fields: readonly (readonly [name: string, limits: Limits])[],
	from: string,
	numbers: readonly number[],
): [name: string, value: number][] {
	const first = fields.findIndex(([name]) => name === from);
	return fields
		.slice(Math.max(0, first))
		.filter(([, { unit }]) => unit === fields[first]?.[1].unit)
		.slice(0, numbers.length)
		.map(([name, limits], k) => [name, limited(limits, numbers[k]!)]);
}
