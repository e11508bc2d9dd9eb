import type { Quat, Vec3 } from "../maths";

/** How pictures of a scene are taken: from where, in what light, on what ground. Colours are linear RGB. */
export interface FilmView {
	/** Pixels. */
	readonly width: number;
	readonly height: number;
	readonly cameraAt: (frame: number) => FilmCamera;
	readonly sunAt: (frame: number) => FilmSun | undefined;
	readonly lampsAt: (frame: number) => readonly FilmLamp[];
	readonly backdrop: Vec3;
	/** Light from all sides, as a multiple of the usual. */
	readonly sky: number;
	/** Undefined where the shot has none: then only shadows are caught at height 0. */
	readonly ground: { readonly height: number; readonly colour: Vec3 } | undefined;
}

/** Looks along its own −z axis, as everywhere. */
export interface FilmCamera {
	readonly translation: Vec3;
	readonly rotation: Quat;
	/** From the lower to the upper edge, degrees. */
	readonly fieldOfView: number;
}

export interface FilmSun {
	/** Where it shines to. */
	readonly direction: Vec3;
	readonly colour: Vec3;
}

export interface FilmLamp {
	readonly place: Vec3;
	/** At a metre from it. */
	readonly colour: Vec3;
}

/** Something to be seen, where it is in a frame. */
export interface FilmItem {
	/** 3 per vertex, in its own frame, metres. */
	readonly positions: ArrayLike<number>;
	/** 3 per vertex. */
	readonly normals: ArrayLike<number>;
	/** 3 per triangle. */
	readonly indices: ArrayLike<number>;
	readonly translation: Vec3;
	readonly rotation: Quat;
	readonly scale: number;
	/** Paints a pixel of a triangle: linear RGB from the corner weights. */
	readonly paint: (triangle: number, b0: number, b1: number, b2: number, into: [number, number, number]) => void;
}
