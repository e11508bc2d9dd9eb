import type { OptionSpec, OptionValues } from "../shot";

/** More copies than this are not made. */
export const MOST_COPIES = 100_000;

export const countSpec = (label: string, fallback: number, help: string, when?: (options: OptionValues) => boolean): OptionSpec => ({
	kind: "number",
	label,
	unit: "",
	default: fallback,
	least: 1,
	most: MOST_COPIES,
	whole: true,
	help,
	...(when && { when }),
});

export const lengthSpec = (
	label: string,
	fallback: number,
	help: string,
	{ least = 0, when }: { least?: number; when?: (options: OptionValues) => boolean } = {},
): OptionSpec => ({ kind: "number", label, unit: "m", default: fallback, least, most: 10_000, help, ...(when && { when }) });

export const angleSpec = (label: string, fallback: number, help: string): OptionSpec => ({
	kind: "number",
	label,
	unit: "°",
	default: fallback,
	least: -3600,
	most: 3600,
	help,
});

/** Room between neighbours that touch nowhere, as a share of their size. */
export const CLEAR = 1.05;
