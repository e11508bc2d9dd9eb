import { gravityAt, type Speed, speedBetween } from "../../animation";
import { vec3 } from "../../maths";
import { TICKS_PER_SECOND, type Ticks } from "../../shot";
import { takeBlows } from "../bonded";
import { brace } from "../braced";
import { stretchLines } from "../joints";
import { applyPushes } from "../pushes";
import type { FrameLog } from "../recorder";
import { resistRolling } from "../rolling";
import { Held, stepSeconds, Wake } from "../scene";
import { isSqueezed, meetsSleeping } from "../squeezed";
import { timed } from "../stopwatch";
import { keyedNow, keyedPose, takeBack } from "../takeBack";
import { findTouched } from "../touched";
import { actOnJoints, loadJoints, stiffen } from "./connected";
import { setKeyed } from "./keyed";
import { muteFor, muteOverlaps, unmuteSunk } from "./muted";
import { logContacts, noteLost } from "./notes";
import { MOST_BLOW_PARTS, MOST_SQUEEZED_PARTS } from "./parts";
import type { Run } from "./run";
import { allowSpeeds, sweepFast } from "./speeds";
import { freeTouched, releaseDue, withGroups } from "./waking";

/** A substep is done again at most this often while things give way. */
const MOST_REPEATS = 6;
/** A step is looked at this often for what was not held up in it. */
const MOST_LOOKS = 3;

/**
 * One step. What is held acts on what hits it like a wall of infinite mass; if it only gave way after the step, the
 * striker would have bounced already. So the state of everything that moves is remembered, and where something gave
 * way it is put back and the step is done again with that body free, at most a few times. (A 500 kg ball at 20 m/s
 * into blocks of 10 kg that wake when touched comes back at −1 m/s without this, and passes at 15 m/s with it.)
 *
 * `parts`: how many of it make up a whole one; endlessly many where it may not be divided. Returns whether it was done: not where a blow is
 * too fast for it, or something light is driven into the ground, and it may be divided. Then all is as it was.
 */
export function advanceStep(run: Run, log: FrameLog, begin: Ticks, end: Ticks, parts: number): boolean {
	const { scene, engine, held } = run;
	if (scene.settings.gravityKeys) {
		const gravity = gravityAt(scene.settings, begin);
		scene.gravity.set(gravity, 0);
		engine.setGravity(gravity);
	}
	releaseDue(run, begin, log);
	takeBack(scene, engine, held, run.after, run.taken, begin);
	[run.before, run.after] = [run.after, run.before];
	if (begin === 0) engine.readState(run.before);
	sweepFast(run);
	timed(run.watch, "forces", () => applyPushes(run, run.pushes, begin));
	allowSpeeds(run);
	timed(run.watch, "connectors", () => stretchLines(run, run.joints, run.lines));
	engine.remember(run.before);
	if (run.hasBonds) {
		unmuteSunk(run);
		muteFor(run, []);
	}
	const waiting = held.some((h, i) => h === Held.Waits && scene.wake[i] === Wake.Touched && scene.wakeTick[i]! <= begin);
	for (let attempt = 0; ; attempt++) {
		stepEngine(run, begin, end);
		for (let look = 0; look < MOST_LOOKS; look++) {
			// Bracing is to look at every step, whatever the other says.
			const wasWrong = [look === 0 && meetsSleeping(run), brace(run, run.heavier), timed(run.watch, "connectors", () => stiffen(run))];
			if (!wasWrong.some(Boolean)) break;
			engine.writeState(run.before);
			stepEngine(run, begin, end);
		}
		const touched = waiting ? withGroups(engine, held, findTouched(scene, engine, held, run.before)) : [];
		if (touched.length === 0) {
			const isCoarse =
				(parts < MOST_SQUEEZED_PARTS && isSqueezed(run)) ||
				(run.hasBonds && !timed(run.watch, "bonds", () => blow(run, log, begin, end, parts < MOST_BLOW_PARTS)));
			if (isCoarse) {
				engine.writeState(run.before);
				[run.before, run.after] = [run.after, run.before];
				return false;
			}
			break;
		}
		freeTouched(run, touched, begin, log);
		if (attempt >= MOST_REPEATS) {
			log.repeated.push({ body: touched[0]!.body, by: touched[0]!.by, times: attempt + 1 });
			break;
		}
		engine.writeState(run.before);
	}
	engine.readState(run.after);
	timed(run.watch, "connectors", () => loadJoints(run, log, end));
	resistRolling(scene, engine, run.after);
	logContacts(run, log);
	noteLost(run, log);
	return true;
}

/**
 * What blows on bonded bodies do; where they do something the step is done again without those contacts. Returns whether the step was
 * short enough for them: else nothing has been done.
 */
function blow(run: Run, log: FrameLog, begin: Ticks, end: Ticks, mayDivide: boolean): boolean {
	const { scene } = run;
	const seconds = stepSeconds(scene);
	const speedOf = (i: number): Speed =>
		speedBetween(keyedPose(scene, run.taken, i, begin), keyedPose(scene, run.taken, i, end), vec3.ZERO, seconds);
	const done = takeBlows(run, run.bonded, { now: begin / TICKS_PER_SECOND, keyed: keyedNow(run), speedOf, mayDivide });
	if (done === "coarse") return false;
	if (!done) return true;
	log.broken.push(...done.broke);
	muteOverlaps(run, done.broke);
	muteFor(run, done.muted);
	stepEngine(run, begin, end);
	return true;
}

function stepEngine(run: Run, begin: Ticks, end: Ticks): void {
	setKeyed(run, begin, end);
	timed(run.watch, "connectors", () => actOnJoints(run));
	timed(run.watch, "engine", () => run.engine.step());
}
