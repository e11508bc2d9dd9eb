/**
 * x of A x = b for a symmetric A that is positive, or nearly so, by conjugate gradients (Golub & Van Loan, Matrix Computations, §11.3).
 * `apply`: writes A x into its second argument. Stops at the 1e-10th of b, or after so many steps.
 */
export function conjugateGradients(apply: (x: Float64Array, into: Float64Array) => void, b: Float64Array, mostSteps: number): Float64Array {
	const n = b.length;
	const x = new Float64Array(n);
	const r = b.slice();
	const p = b.slice();
	const q = new Float64Array(n);
	let rr = r.reduce((sum, v) => sum + v * v, 0);
	const whole = rr;
	for (let step = 0; step < mostSteps && rr > 1e-20 * whole && whole > 0; step++) {
		apply(p, q.fill(0));
		const curvature = p.reduce((sum, v, i) => sum + v * q[i]!, 0);
		if (!(curvature > 0)) break;
		const alpha = rr / curvature;
		let next = 0;
		for (let i = 0; i < n; i++) {
			x[i]! += alpha * p[i]!;
			r[i]! -= alpha * q[i]!;
			next += r[i]! * r[i]!;
		}
		for (let i = 0; i < n; i++) p[i] = r[i]! + (next / rr) * p[i]!;
		rr = next;
	}
	return x;
}
