import type { Quat } from "./quaternion";
import type { Vec3 } from "./vector";

/** A symmetric 3×3 matrix: xx, yy, zz, xy, xz, yz. */
export type Symmetric3 = readonly [number, number, number, number, number, number];

/**
 * Eigenvalues and the rotation whose axes are the eigenvectors, by cyclic Jacobi rotations
 * (Golub & Van Loan, Matrix Computations, §8.5). Uses square roots only, so it is the same everywhere.
 */
export function principalAxes(m: Symmetric3): { values: Vec3; frame: Quat } {
	const a = [
		[m[0], m[3], m[4]],
		[m[3], m[1], m[5]],
		[m[4], m[5], m[2]],
	] as number[][];
	const v = [
		[1, 0, 0],
		[0, 1, 0],
		[0, 0, 1],
	] as number[][];
	const size = Math.abs(m[0]) + Math.abs(m[1]) + Math.abs(m[2]);
	for (let sweep = 0; sweep < 16; sweep++) {
		const off = Math.abs(a[0]![1]!) + Math.abs(a[0]![2]!) + Math.abs(a[1]![2]!);
		if (off <= 1e-15 * size) break;
		for (const [p, q] of [
			[0, 1],
			[0, 2],
			[1, 2],
		] as const) {
			if (Math.abs(a[p]![q]!) <= 1e-300) continue;
			const theta = (a[q]![q]! - a[p]![p]!) / (2 * a[p]![q]!);
			const t = (theta < 0 ? -1 : 1) / (Math.abs(theta) + Math.sqrt(theta * theta + 1));
			const c = 1 / Math.sqrt(t * t + 1);
			const s = t * c;
			for (let k = 0; k < 3; k++) {
				const kp = a[k]![p]!;
				const kq = a[k]![q]!;
				a[k]![p] = c * kp - s * kq;
				a[k]![q] = s * kp + c * kq;
			}
			for (let k = 0; k < 3; k++) {
				const pk = a[p]![k]!;
				const qk = a[q]![k]!;
				a[p]![k] = c * pk - s * qk;
				a[q]![k] = s * pk + c * qk;
				const vp = v[k]![p]!;
				const vq = v[k]![q]!;
				v[k]![p] = c * vp - s * vq;
				v[k]![q] = s * vp + c * vq;
			}
		}
	}
	// A rotation needs a right-handed frame.
	const determinant =
		v[0]![0]! * (v[1]![1]! * v[2]![2]! - v[1]![2]! * v[2]![1]!) -
		v[0]![1]! * (v[1]![0]! * v[2]![2]! - v[1]![2]! * v[2]![0]!) +
		v[0]![2]! * (v[1]![0]! * v[2]![1]! - v[1]![1]! * v[2]![0]!);
	if (determinant < 0) for (let k = 0; k < 3; k++) v[k]![2] = -v[k]![2]!;
	return { values: [a[0]![0]!, a[1]![1]!, a[2]![2]!], frame: fromMatrix(v) };
}

/** Shepperd's method: the quaternion of a rotation matrix given as rows. */
export function fromMatrix(m: readonly (readonly number[])[]): Quat {
	const [m00, m01, m02] = m[0] as [number, number, number];
	const [m10, m11, m12] = m[1] as [number, number, number];
	const [m20, m21, m22] = m[2] as [number, number, number];
	const trace = m00 + m11 + m22;
	if (trace > 0) {
		const s = Math.sqrt(trace + 1) * 2;
		return [(m21 - m12) / s, (m02 - m20) / s, (m10 - m01) / s, s / 4];
	}
	if (m00 > m11 && m00 > m22) {
		const s = Math.sqrt(1 + m00 - m11 - m22) * 2;
		return [s / 4, (m01 + m10) / s, (m02 + m20) / s, (m21 - m12) / s];
	}
	if (m11 > m22) {
		const s = Math.sqrt(1 + m11 - m00 - m22) * 2;
		return [(m01 + m10) / s, s / 4, (m12 + m21) / s, (m02 - m20) / s];
	}
	const s = Math.sqrt(1 + m22 - m00 - m11) * 2;
	return [(m02 + m20) / s, (m12 + m21) / s, s / 4, (m10 - m01) / s];
}
