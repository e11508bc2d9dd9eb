import { type BodyRow, bodyPose } from "@rubble/core/bodies";
import { pieceOfCrumb } from "@rubble/core/bonds";
import { hardestBlows, wokenAt } from "@rubble/core/cache";
import { ageAt, makeColours } from "@rubble/core/colouring";
import { type Vec3, vec3 } from "@rubble/core/maths";
import { Color, Matrix4, SRGBColorSpace } from "three";
import type { WorkbenchState } from "../store/store";
import type { Bodies } from "./bodies";
import { speedsAt } from "./poses";

/** Slow to fast: slate, sea, kelp, sand, rust would say "wrong", so it ends in a light sand. */
const RAMP = ["#41525c", "#2f6fa8", "#12a594", "#c9cf8a", "#fff3d0"].map((colour) => new Color(colour));

/** `t` from 0 to 1. */
export function rampColour(t: number, into: Color): Color {
	const x = Math.min(Math.max(t, 0), 1) * (RAMP.length - 1);
	const i = Math.min(RAMP.length - 2, Math.floor(x));
	return into.copy(RAMP[i]!).lerp(RAMP[i + 1]!, x - i);
}

/** A soft colour of its own for each piece, the same every time: hues by the golden angle. */
export function pieceColour(index: number, into: Color): Color {
	return into.setHSL((index * 0.381966) % 1, 0.32, 0.66 + 0.12 * (((index * 7) % 5) / 4 - 0.5));
}

/** By how much parts of a slab differ from it in lightness. */
const PART_LIGHTER = 0.14;

/** A colour of its own for each slab of bonded pieces, lighter and darker for its parts; undefined for what is in none. */
export function slabColours({ ties }: Pick<WorkbenchState, "ties">): (body: string, into: Color) => Color | undefined {
	const numbers = new Map(ties?.ids.map((id, i) => [id, i]));
	return (body, into) => {
		const i = numbers.get(body) ?? -1;
		const [slab, chunk] = [ties?.slabs[i] ?? -1, ties?.chunks[i] ?? -1];
		if (slab < 0) return undefined;
		const part = chunk < 0 ? 0 : (((chunk * 0.618034) % 1) - 0.5) * 2 * PART_LIGHTER;
		return into.setHSL((0.08 + slab * 0.381966) % 1, 0.45, 0.58 + part);
	};
}

/** Columns of the tables that bodies can be coloured by. */
const COLUMNS: Partial<Record<WorkbenchState["colourBy"], (body: BodyRow, state: WorkbenchState) => number>> = {
	volume: (body) => body.volume,
	mass: (body) => body.mass,
	area: (body) => body.area,
	neighbours: (body) => body.neighbours,
	height: (body, { shot }) => (shot.objects[body.object] ? bodyPose(shot, body, 0).translation[1] : 0),
};

/**
 * From a body to its place between the least and the most of the column that is asked for, 0 to 1; whole objects that
 * are not broken and the ground are left out of that range. Sizes go by their cube root: most pieces are small.
 */
export function columnColours(state: WorkbenchState): ((body: BodyRow) => number) | undefined {
	const column = COLUMNS[state.colourBy];
	if (!column) return undefined;
	const read = (body: BodyRow) =>
		["volume", "mass", "area"].includes(state.colourBy) ? Math.cbrt(column(body, state)) : column(body, state);
	const derived = state.bodies.filter((body) => body.piece >= 0);
	const values = (derived.length > 0 ? derived : state.bodies.filter((body) => !body.endless)).map(read);
	const low = values.reduce((a, b) => Math.min(a, b), Number.POSITIVE_INFINITY);
	const high = values.reduce((a, b) => Math.max(a, b), Number.NEGATIVE_INFINITY);
	return (body) => (high > low ? (read(body) - low) / (high - low) : 0.5);
}

/** Darker materials than this cannot be made any colour. Linear. */
const LEAST_WORN = 0.03;

/** Colours of the shot's gradient at the frame, by body; undefined where it has none, or its formula does not read. */
export function gradientColours(state: WorkbenchState, placed: Bodies): ((body: BodyRow, into: Color) => Color | undefined) | undefined {
	const { shot, frame, take, pixels } = state;
	const current = pixels?.picture === shot.colouring?.picture?.picture;
	const colours = shot.colouring && makeColours(shot.colouring, current ? pixels?.value : undefined);
	if (!colours?.ok) return undefined;
	const { by } = shot.colouring!;
	const speeds = by === "speed" || by === "formula" ? speedsAt(state) : undefined;
	// Only what goes by the take's frames needs the numbers of its bodies.
	const known = speeds || by === "age" || by === "blow" ? new Map(take?.take.bodies.map(({ id }, i) => [id, i])) : undefined;
	const woken = wokenAt(state.frames);
	const blowAt = hardestBlows(state.frames);
	const matrix = new Matrix4();
	const worn = new Color();
	const rgb: [number, number, number] = [0, 0, 0];
	const order = new Map(state.bodies.filter(({ endless }) => !endless).map(({ id }, i) => [id, i]));
	const seconds = (frame - shot.settings.firstFrame) / shot.settings.fps;
	return (body, into) => {
		if (body.settings.kind !== "active") return undefined;
		const there = placed.matrixOf(body.id, matrix);
		const start = shot.objects[body.object] ? bodyPose(shot, body, 0).translation : vec3.ZERO;
		const place: Vec3 = there ? [matrix.elements[12]!, matrix.elements[13]!, matrix.elements[14]!] : start;
		const number = known?.get(body.id) ?? -1;
		const speed = speeds?.[number] ?? 0;
		const age = ageAt(shot.settings, body.settings.wake, woken.get(number), frame);
		const blow = known ? blowAt(number, frame) : 0;
		colours.value({ ...body, index: order.get(pieceOfCrumb(body.id)) ?? 0, place, start, speed, seconds, age, blow }, rgb);
		// The drawing multiplies it with the material's colour.
		worn.set(shot.materials[shot.objects[body.source]?.material ?? ""]?.colour ?? "#ffffff");
		into.setRGB(rgb[0], rgb[1], rgb[2], SRGBColorSpace);
		return into.setRGB(into.r / Math.max(LEAST_WORN, worn.r), into.g / Math.max(LEAST_WORN, worn.g), into.b / Math.max(LEAST_WORN, worn.b));
	};
}
