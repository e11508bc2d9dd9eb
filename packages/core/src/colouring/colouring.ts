import { bad, good, type Outcome } from "../common";
import { COUNT, type Formula, METRES, parseFormula, SECONDS, SPEED, type Unit } from "../links";
import { noise3, random, type Vec3 } from "../maths";
import { type Colouring, type FullBodySettings, type ShotSettings, simulationStart } from "../shot";
import { type Pixels, pixelAt } from "./pixels";

/** What is known of a body at a frame. */
export interface ColouredBody {
	/** Counted over all bodies of the shot. */
	readonly index: number;
	/** World, metres: now, and at the first frame. */
	readonly place: Vec3;
	readonly start: Vec3;
	/** m/s */
	readonly speed: number;
	/** m³ */
	readonly volume: number;
	/** kg */
	readonly mass: number;
	/** m² */
	readonly area: number;
	/** How many pieces it shares a face with. */
	readonly neighbours: number;
	/** N s: the hardest that it has been hit so far, see `hardestBlows`. */
	readonly blow: number;
	/** Since the first frame. */
	readonly seconds: number;
	/** Since it began to move by itself; 0 before. */
	readonly age: number;
}

/** Seconds since a body began to move by itself; 0 before. `woken`: the frame in which that was noted, see `wokenAt`. */
export function ageAt(settings: ShotSettings, wake: FullBodySettings["wake"], woken: number | undefined, frame: number): number {
	const atOnce = wake.when === "start" && simulationStart(settings) === settings.firstFrame;
	const free = atOnce ? settings.firstFrame : woken;
	return free === undefined ? 0 : Math.max(0, frame - free) / settings.fps;
}

export interface ColourSource {
	readonly id: Colouring["by"];
	readonly label: string;
	readonly help: string;
	/** Of what goes from the gradient's begin to its end; percent for shares. */
	readonly unit: "m" | "m/s" | "s" | "N s" | "m³" | "m²" | "kg" | "%" | "";
	/** Where the gradient begins and ends at first. */
	readonly range: readonly [from: number, to: number];
}

/** What colours can go by: a gradient, and the pixels of a picture. */
export const COLOUR_SOURCES: readonly ColourSource[] = [
	{ id: "noise", label: "Noise", help: "Soft patches in space, where things stood at first", unit: "%", range: [0.25, 0.75] },
	{ id: "random", label: "By chance", help: "Each body its own", unit: "%", range: [0, 1] },
	{ id: "picture", label: "Picture", help: "The colours of a picture that lies over the things", unit: "", range: [0, 1] },
	{ id: "x", label: "Place x", help: "Along the world's x axis", unit: "m", range: [-2, 2] },
	{ id: "height", label: "Height", help: "Above 0", unit: "m", range: [0, 2] },
	{ id: "z", label: "Place z", help: "Along the world's z axis", unit: "m", range: [-2, 2] },
	{ id: "speed", label: "Speed", help: "How fast it is at the frame", unit: "m/s", range: [0, 4] },
	{ id: "age", label: "Age", help: "How long it has moved by itself: from when it woke", unit: "s", range: [0, 2] },
	{ id: "blow", label: "Hardest blow", help: "The hardest that it has been hit until the frame", unit: "N s", range: [0, 20] },
	{ id: "volume", label: "Volume", help: "Of its shape", unit: "m³", range: [0, 0.1] },
	{ id: "mass", label: "Mass", help: "What it weighs", unit: "kg", range: [0, 100] },
	{ id: "area", label: "Surface", help: "Of its shape", unit: "m²", range: [0, 1] },
	{ id: "neighbours", label: "Neighbours", help: "How many pieces it shared a face with", unit: "", range: [0, 16] },
	{
		id: "formula",
		label: "Formula",
		help: "Of x, height, z, x0, height0, z0, speed, seconds, age, blow, mass, volume, area, neighbours, n",
		unit: "",
		range: [0, 1],
	},
];

const NAMES: Readonly<Record<string, Unit>> = {
	x: METRES,
	height: METRES,
	z: METRES,
	x0: METRES,
	height0: METRES,
	z0: METRES,
	speed: SPEED,
	seconds: SECONDS,
	age: SECONDS,
	mass: undefined,
	blow: undefined,
	volume: [3, 0],
	area: [2, 0],
	neighbours: COUNT,
	n: COUNT,
};

/** The formula of a gradient, or what is wrong with it. Any unit will do: the range is in the same. */
export const readColourFormula = (formula: string): Outcome<Formula> => parseFormula(formula, NAMES, undefined);

const FOLLOWS_FRAMES: ReadonlySet<Colouring["by"]> = new Set<Colouring["by"]>(["speed", "age", "blow", "formula"]);

/** What goes by a place: that at first, or that at the frame. */
export const PLACED: ReadonlySet<Colouring["by"]> = new Set<Colouring["by"]>(["noise", "x", "height", "z", "picture"]);

/** Whether colours change from frame to frame. */
export const coloursMove = ({ by, moving }: Colouring): boolean => FOLLOWS_FRAMES.has(by) || (moving && PLACED.has(by));

/** Writes the colour of a body, sRGB from 0 to 1. */
type Painter = (body: ColouredBody, into: [number, number, number]) => void;

/**
 * Reads a colouring once, for many bodies; a sentence where its formula does not read. `pixels`: of its picture, where it
 * goes by one.
 */
export function makeColours(colouring: Colouring, pixels?: Pixels): Outcome<Painter> {
	const { by, picture, moving, from, to } = colouring;
	if (by === "picture") {
		if (!picture || !pixels) return bad("Colours by a picture: choose the picture.");
		return good((body, into) => pixelAt(pixels, picture, moving ? body.place : body.start, into));
	}
	const formula = by === "formula" ? readColourFormula(colouring.formula) : undefined;
	if (formula && !formula.ok) return formula;
	const stops = [...colouring.stops].sort((a, b) => a[0] - b[0]).map(([share, colour]) => ({ share, rgb: rgbOf(colour) }));
	if (stops.length === 0) return bad("A gradient needs a colour.");
	return good((body, into) => {
		const value = formula?.ok ? formulaValue(formula.value, body) : valueFor(colouring, body);
		mix(stops, to === from ? 0.5 : (value - from) / (to - from), into);
	});
}

function valueFor({ by, size, seed, moving }: Colouring, body: ColouredBody): number {
	const [x, y, z] = moving ? body.place : body.start;
	switch (by) {
		case "noise":
			return (1 + noise3(x / size, y / size, z / size, seed)) / 2;
		case "random":
			return random(seed, body.index, 0);
		case "x":
			return x;
		case "height":
			return y;
		case "z":
			return z;
		case "speed":
		case "age":
		case "blow":
		case "volume":
		case "mass":
		case "area":
		case "neighbours":
			return body[by];
		case "picture":
		case "formula":
			return 0;
	}
}

function formulaValue({ value }: Formula, body: ColouredBody): number {
	const known: Readonly<Record<string, number>> = {
		x: body.place[0],
		height: body.place[1],
		z: body.place[2],
		x0: body.start[0],
		height0: body.start[1],
		z0: body.start[2],
		speed: body.speed,
		seconds: body.seconds,
		age: body.age,
		blow: body.blow,
		mass: body.mass,
		volume: body.volume,
		area: body.area,
		neighbours: body.neighbours,
		n: body.index,
	};
	const found = value((name) => known[name] ?? 0);
	return Number.isFinite(found) ? found : 0;
}

/** sRGB, 0 to 1 each. */
const rgbOf = (colour: string): Vec3 => [1, 3, 5].map((k) => Number.parseInt(colour.slice(k, k + 2), 16) / 255) as unknown as Vec3;

function mix(stops: readonly { readonly share: number; readonly rgb: Vec3 }[], share: number, into: [number, number, number]): void {
	const after = stops.findIndex((stop) => stop.share >= share);
	const [a, b] = after < 0 ? [stops.at(-1)!, stops.at(-1)!] : [stops[Math.max(0, after - 1)]!, stops[after]!];
	const t = b.share > a.share ? Math.min(1, Math.max(0, (share - a.share) / (b.share - a.share))) : 0;
	for (let k = 0; k < 3; k++) into[k] = a.rgb[k]! + t * (b.rgb[k]! - a.rgb[k]!);
}
