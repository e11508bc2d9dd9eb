import type { Ticks } from "../../shot";
import { contactLoads } from "../contactLoads";
import {
	borneIn,
	breakJoints,
	type JointLoad,
	jointLoads,
	lineLoads,
	noteBorne,
	notePulls,
	pullSprings,
	showStretched,
	stiffenTaut,
	stopCones,
} from "../joints";
import { pushedBodies } from "../pushes";
import type { FrameLog } from "../recorder";
import type { Run } from "./run";

/** What connectors do before a step that the engine's own joints do not. */
export function actOnJoints(run: Run): void {
	pullSprings(run, run.joints);
	stopCones(run, run.joints);
	showStretched(run, run.joints);
}

/** Keeps parts of taut ropes from shaking; whether the step is to be done again. */
export function stiffen(run: Run): boolean {
	const { engine, taut } = run;
	if (taut.inner.length === 0) return false;
	engine.readState(run.after);
	const { broken } = run.joints;
	return stiffenTaut(
		run,
		taut,
		run.heavier,
		loadsOf(run, (n) => broken[n] === 0 && taut.joints.has(n)),
	);
}

/**
 * What joints bore is kept; those that had to bear too much part, and what is bonded is pulled at. Reading what touches costs a chain as
 * much as its step: what can neither part nor pull at bonds is looked at in the last step of a frame only.
 */
export function loadJoints(run: Run, log: FrameLog, end: Ticks): void {
	const { scene } = run;
	const { broken } = run.joints;
	const isBonded = (i: number): boolean => i >= 0 && scene.bonded[i] === 1;
	const endsFrame = end >= log.tick;
	const isWanted = (n: number): boolean => {
		const { a, b, options } = scene.joints[n]!;
		return broken[n] === 0 && (endsFrame || options.breaks === "load" || isBonded(a) || isBonded(b));
	};
	if (!scene.joints.some((_, n) => isWanted(n))) return;
	const stiffnessOf = (i: number): number | undefined => (isBonded(i) ? run.bonded.lattice.ofBonds[i]! : undefined);
	const loads = [...loadsOf(run, isWanted), ...lineLoads(run, run.joints, run.lines, stiffnessOf)];
	notePulls(run, run.pulls, loads);
	const borne = borneIn(loads);
	noteBorne(log.borne, borne);
	for (const { joint, load } of breakJoints(run, run.joints, borne)) log.parted.push({ joint, load });
}

/** What those joints bore in the last step that are wanted, and what hangs together with them. */
function loadsOf(run: Run, isWanted: (joint: number) => boolean): JointLoad[] {
	const { scene, engine } = run;
	const joined = new Uint8Array(scene.count);
	for (const { a, b } of scene.joints)
		for (const i of [a, b])
			if (i >= 0)
				for (const member of engine.isAnchored(engine.carrier[i]!) ? [i] : engine.membersOf(engine.carrier[i]!)) joined[member] = 1;
	const contacts = contactLoads(run, (i) => joined[i] === 1);
	return jointLoads(run, run.joints, isWanted, pushedBodies(run, joined), contacts, run.heavier);
}
