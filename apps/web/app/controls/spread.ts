import { readQuantity } from "@rubble/core/shot";

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

/** What a field shows: its unit there, and by how much it shows more than the value is: 1000 shows metres as millimetres. */
export interface ShownAs {
	readonly unit: string;
	readonly factor: number;
}

/** Lengths that begin below this read better in millimetres. */
const SMALL = 0.1; // metres

/** How a described number is shown: an option by what it is at first, a size of a shape by what it is. */
export function shownAs(
	{ unit, percent }: { readonly unit: string; readonly percent?: boolean | undefined },
	usual: number,
	small = SMALL,
): ShownAs {
	if (unit === "m" && Math.abs(usual) < small) return { unit: "mm", factor: 1000 };
	return percent ? { unit: "%", factor: 100 } : { unit, factor: 1 };
}

/**
 * Several quantities that are typed into one field at once: they fill it and the fields after it that measure the same, by name, as
 * far as there are any. Each is read by its own field: a bare 6 is 6 mm where millimetres stand. What cannot be read is left out.
 */
export function spread(
	fields: readonly (readonly [name: string, limits: Limits, shown: ShownAs])[],
	from: string,
	texts: readonly string[],
	fps?: number,
): [name: string, value: number][] {
	const first = fields.findIndex(([name]) => name === from);
	return fields
		.slice(Math.max(0, first))
		.filter(([, { unit }]) => unit === fields[first]?.[1].unit)
		.slice(0, texts.length)
		.flatMap(([name, limits, { unit, factor }], k): [string, number][] => {
			const read = readQuantity(texts[k]!, { unit, fps });
			return read.ok ? [[name, limited(limits, read.value / factor)]] : [];
		});
}
