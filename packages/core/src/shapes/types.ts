import type { Mesh } from "../mesh";

/** One editable number of a shape. */
export interface ShapeParameter {
	readonly label: string;
	readonly unit: "m" | "";
	readonly default: number;
	readonly least: number;
	readonly most: number;
	readonly whole?: boolean;
	/** 0 has other faces than any other value: it cannot be keyed. */
	readonly addsFaces?: boolean;
	readonly help: string;
}

/** One editable text of a shape. */
export interface ShapeText {
	readonly label: string;
	readonly default: string;
	/** In characters. */
	readonly most: number;
	readonly help: string;
}

/** A primitive. Its origin is its middle; ground has its surface at height 0. */
export interface Shape {
	readonly id: string;
	readonly label: string;
	readonly help: string;
	readonly parameters: Readonly<Record<string, ShapeParameter>>;
	readonly texts?: Readonly<Record<string, ShapeText>>;
	/** What others stand on: it holds still from the beginning. */
	readonly ground?: boolean;
	/** Endless shapes (ground) have no mesh to break or weigh. */
	readonly endless?: boolean;
	/** A sentence where parameters that are each within their limits do not go together. */
	readonly problem?: (parameters: Readonly<Record<string, number>>, texts: Readonly<Record<string, string>>) => string | undefined;
	/** Metres; parameters are within their limits. */
	readonly build: (parameters: Readonly<Record<string, number>>, texts: Readonly<Record<string, string>>) => Mesh;
}
