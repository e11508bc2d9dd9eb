import { type Guard, guardsOf } from "../connectors";
import { find, unite } from "../mesh";
import { Kind, type SimScene } from "./scene";

/** The lines that help heavy bodies on the chains of a scene, see `connectors/guards.ts`. */
export function sceneGuards(scene: SimScene): Guard[] {
	return guardsOf(scene.joints, scene.mass, (i) => scene.kind[i] !== Kind.Active, standing(scene));
}

/** Whether bonds hold a body, over others, to what holds still. What has broken off later is no nearer to the end of a chain for that. */
function standing({ bonds, kind, count }: SimScene): (body: number) => boolean {
	const root = Int32Array.from({ length: count }, (_, i) => i);
	const isActive = (i: number): boolean => kind[i] === Kind.Active;
	const feet: number[] = [];
	for (let k = 0; k < bonds.count; k++) {
		const [a, b] = [bonds.a[k]!, bonds.b[k]!];
		if (isActive(b)) unite(root, a, b);
		else feet.push(a);
	}
	const held = new Set(feet.map((i) => find(root, i)));
	return (i) => held.size > 0 && held.has(find(root, i));
}
