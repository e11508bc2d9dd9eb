import { type Vec3, vec3 } from "@rubble/core/maths";

/** Along this share of a line what lies beside the grabbed point comes along, less and less. */
const REACH = 0.3;

const pointAt = (line: readonly number[], i: number): Vec3 => [line[3 * i]!, line[3 * i + 1]!, line[3 * i + 2]!];

/** A line (3 numbers per point) whose grabbed point goes to a place and takes its neighbours along; a dot goes as a whole. */
export function bendStroke(line: readonly number[], grabbed: number, to: Vec3): number[] {
	const count = line.length / 3;
	const along = [0];
	for (let i = 1; i < count; i++) along.push(along[i - 1]! + vec3.length(vec3.subtract(pointAt(line, i), pointAt(line, i - 1))));
	const reach = REACH * along[count - 1]!;
	const by = vec3.subtract(to, pointAt(line, grabbed));
	return Array.from({ length: count }, (_, i) => {
		const away = Math.abs(along[i]! - along[grabbed]!);
		const share = i === grabbed ? 1 : reach > 0 ? Math.max(0, 1 - (away / reach) ** 2) ** 2 : 0;
		return vec3.add(pointAt(line, i), vec3.scale(by, share));
	}).flat();
}
