/**
 * The transcendental functions of the core. The built-in ones differ in their last bits between
 * JavaScript engines, which would break "same shot, same bytes"; these are plain JavaScript and do not.
 * Lint forbids `Math.sin` and its kin everywhere in the core.
 */
export { default as acos } from "@stdlib/math-base-special-acos";
export { default as atan2 } from "@stdlib/math-base-special-atan2";
export { default as cos } from "@stdlib/math-base-special-cos";
export { default as exp } from "@stdlib/math-base-special-exp";
export { default as ln } from "@stdlib/math-base-special-ln";
export { default as sin } from "@stdlib/math-base-special-sin";

import exp from "@stdlib/math-base-special-exp";
import ln from "@stdlib/math-base-special-ln";
import sin from "@stdlib/math-base-special-sin";

export const degrees = (radians: number): number => (radians * 180) / Math.PI;
export const radians = (degrees: number): number => (degrees * Math.PI) / 180;
/** tan, from the deterministic sine and cosine. */
export const tan = (x: number): number => sin(x) / sin(Math.PI / 2 - x);
/** A power of a number that is not negative. */
export const power = (base: number, exponent: number): number => (base === 0 ? 0 : exp(exponent * ln(base)));
/** Cube root by Newton's iteration on an exponent guess; `Math.cbrt` differs between engines. */
export function cubeRoot(x: number): number {
	if (x === 0 || !Number.isFinite(x)) return x;
	const sign = x < 0 ? -1 : 1;
	let scaled = Math.abs(x);
	let factor = 1;
	while (scaled >= 8) {
		scaled /= 8;
		factor *= 2;
	}
	while (scaled < 1) {
		scaled *= 8;
		factor /= 2;
	}
	let root = 1.5;
	for (let i = 0; i < 8; i++) root -= (root * root * root - scaled) / (3 * root * root);
	return sign * root * factor;
}
export const clamp = (x: number, low: number, high: number): number => (x < low ? low : Math.min(x, high));
