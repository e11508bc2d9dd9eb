import type { Quat } from "./quaternion";
import type { Vec3 } from "./vector";

/** The `i`-th of numbers that lie three by three. */
export const tripleAt = (a: ArrayLike<number>, i: number): Vec3 => [a[3 * i]!, a[3 * i + 1]!, a[3 * i + 2]!];

/** The `i`-th of quaternions that lie one after the other. */
export const quatAt = (a: ArrayLike<number>, i: number): Quat => [a[4 * i]!, a[4 * i + 1]!, a[4 * i + 2]!, a[4 * i + 3]!];
