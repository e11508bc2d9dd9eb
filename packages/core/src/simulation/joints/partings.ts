import type { Running } from "../running";
import type { Borne } from "./borne";
import { wholesOf } from "./loads";
import { isFree, type JointState } from "./state";

export interface JointBreak {
	readonly joint: number;
	/** N, or N m where it was the moment. */
	readonly load: number;
}

/**
 * Lets go what had to bear more than it can in the last step: of what hangs together the joint that is worst off, for when it parts the
 * others have less to bear. All at once, a chain that is jerked fell to single links.
 */
export function breakJoints(run: Running, { broken }: JointState, borne: ReadonlyMap<number, Borne>): JointBreak[] {
	const { scene, engine } = run;
	const wholes = wholesOf(
		run,
		scene.joints.flatMap((_, n) => (broken[n] === 0 ? [n] : [])),
		(i) => isFree(run, i),
	);
	const worst = new Map<number, JointBreak & { readonly use: number }>();
	for (const [joint, { force, moment }] of borne) {
		const { options } = scene.joints[joint]!;
		if (options.breaks !== "load") continue;
		const [byForce, byMoment] = [force / options.force, moment / (options.moment ?? Number.POSITIVE_INFINITY)];
		const use = Math.max(byForce, byMoment);
		// Between two things that hold still it hangs together with nothing.
		const whole = wholes(joint)[0] ?? -1 - joint;
		if (use > 1 && use > (worst.get(whole)?.use ?? 0)) worst.set(whole, { joint, load: byForce >= byMoment ? force : moment, use });
	}
	const found = [...worst.values()].map(({ joint, load }) => ({ joint, load }));
	for (const { joint } of found) {
		broken[joint] = 1;
		engine.cutJoint(joint);
	}
	return found;
}
