import { type Vec3, vec3 } from "@rubble/core/maths";

/** Points that a stroke keeps at most. */
const MOST_POINTS = 64;
const ROUNDS = 2;

/**
 * A drawn line without the tremor of the hand: points at even distances, then corners cut (Chaikin 1974) and thinned.
 * Both ends stay where they are.
 */
export function smoothStroke(points: readonly Vec3[]): Vec3[] {
	let line = resample(points, MOST_POINTS / 2);
	for (let round = 0; round < ROUNDS; round++) {
		const cut = line.slice(1).flatMap((point, i): Vec3[] => [vec3.mix(line[i]!, point, 0.25), vec3.mix(line[i]!, point, 0.75)]);
		line = [line[0]!, ...cut, line[line.length - 1]!];
	}
	return resample(line, MOST_POINTS);
}

/** At most `most` points at even distances along a line. */
function resample(points: readonly Vec3[], most: number): Vec3[] {
	const lengths = [0];
	for (let i = 1; i < points.length; i++) lengths.push(lengths[i - 1]! + vec3.length(vec3.subtract(points[i]!, points[i - 1]!)));
	const total = lengths[lengths.length - 1]!;
	if (total === 0) return [points[0]!];
	const count = Math.min(most, points.length);
	let at = 1;
	return Array.from({ length: count }, (_, i) => {
		const wanted = (total * i) / (count - 1);
		while (at < points.length - 1 && lengths[at]! < wanted) at++;
		const step = lengths[at]! - lengths[at - 1]!;
		return vec3.mix(points[at - 1]!, points[at]!, step > 0 ? Math.min(1, (wanted - lengths[at - 1]!) / step) : 0);
	});
}
