import { volume } from "./measure";
import { topology } from "./topology";
import type { Mesh } from "./types";
import { selectTriangles } from "./weld";

/** Connected parts by shared edges. A cavity is a shell too, but belongs to the part around it: it stays with the rest. */
export function shells(mesh: Mesh): Mesh[] {
	const facts = topology(mesh);
	if (facts.shells === 1) return [mesh];
	const members: number[][] = Array.from({ length: facts.shells }, () => []);
	facts.shellOf.forEach((shell, f) => {
		members[shell]!.push(f);
	});
	const parts = members.map((keep) => selectTriangles(mesh, keep));
	return parts.some((part) => volume(part) < 0) ? [mesh] : parts;
}
