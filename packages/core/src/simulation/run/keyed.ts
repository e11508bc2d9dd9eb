import type { Ticks } from "../../shot";
import { keyedNow, keyedPose } from "../takeBack";
import type { Run } from "./run";

/** Where what goes by its keys is at the beginning and at the end of a step. */
export function setKeyed(run: Run, begin: Ticks, end: Ticks): void {
	const { scene, engine, taken } = run;
	for (const i of keyedNow(run)) {
		engine.setKeyed(i, keyedPose(scene, taken, i, begin), keyedPose(scene, taken, i, end));
		if (i < scene.shown) continue;
		// As the step before left it, a patch has the points of its end: asking just that keeps runs that go on the same.
		const [was, becomes] = [scene.pointsAt(i, begin), scene.pointsAt(i, end)];
		if (becomes.some((v, k) => v !== was[k])) engine.setPoints(i, becomes);
	}
}
