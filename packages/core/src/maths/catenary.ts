import { exp, ln } from "./functions";
import type { Vec3 } from "./vector";
import * as vec3 from "./vector";

/** A line that hangs: where it is so far along it from its first end, metres, and which way it goes on there. */
export type HangingLine = (along: number) => { readonly at: Vec3; readonly way: Vec3 };

/** A line this much longer than the way between its ends is straight, as a share. */
const TAUT = 1e-6;
/** Ends nearer above each other than this share of its length are apart by it, along x. */
const LEAST_APART = 1e-6;
const UP: Vec3 = [0, 1, 0];

/**
 * A line of so many metres that hangs by its own weight from the origin to `span`, height upwards: the catenary (Bernoulli, Huygens and
 * Leibniz 1691), y = a cosh(x / a) with √(L² − v²) = 2 a sinh(d / 2a) for ends that are d apart and v above each other. Undefined where it is
 * too short.
 */
export function hangingLine(span: Vec3, length: number): HangingLine | undefined {
	const straight = vec3.length(span);
	if (straight > length * (1 + TAUT)) return undefined;
	if (straight > length * (1 - TAUT)) {
		const way = vec3.normalize(span);
		return (along) => ({ at: vec3.scale(way, (along * straight) / length), way });
	}
	const rise = span[1];
	const flat: Vec3 = [span[0], 0, span[2]];
	const apart = Math.max(vec3.length(flat), LEAST_APART * length);
	const ahead: Vec3 = vec3.length(flat) >= apart ? vec3.scale(flat, 1 / apart) : [1, 0, 0];
	const a = apart / (2 * narrowness(Math.sqrt(length * length - rise * rise) / apart));
	// Of the lowest point x = 0: its ends are at `middle` ± d / 2.
	const middle = a * 0.5 * ln((length + rise) / (length - rise));
	const first = sinh((middle - apart / 2) / a) * a;
	const height = (s: number): number => Math.sqrt(a * a + s * s);
	return (along) => {
		const s = first + along;
		const x = a * asinh(s / a) - (middle - apart / 2);
		const steep = height(s);
		return {
			at: vec3.add(vec3.scale(ahead, x), [0, steep - height(first), 0]),
			way: vec3.add(vec3.scale(ahead, a / steep), vec3.scale(UP, s / steep)),
		};
	};
}

const sinh = (z: number): number => (exp(z) - exp(-z)) / 2;
const asinh = (x: number): number => (x < 0 ? -asinh(-x) : ln(x + Math.sqrt(x * x + 1)));

/** The z > 0 for which sinh(z) / z is this ratio, which is greater than 1; by halving, to the last bit that matters. */
function narrowness(ratio: number): number {
	let [low, high] = [1e-6, 700];
	for (let k = 0; k < 80; k++) {
		const z = (low + high) / 2;
		if (sinh(z) < ratio * z) low = z;
		else high = z;
	}
	return (low + high) / 2;
}
