import { TICKS_PER_SECOND, type Ticks } from "../../shot";
import type { FrameLog } from "../recorder";
import { type SimScene, tickOfStep } from "../scene";
import { partsOf, setParts } from "./parts";
import type { Run } from "./run";
import { advanceStep } from "./step";

/** Steps until a tick is reached or passed. */
export function advanceTo(run: Run, tick: Ticks, log: FrameLog): void {
	const { settings } = run.scene;
	const steps = Math.ceil((tick * settings.stepsPerSecond) / TICKS_PER_SECOND - 1e-9);
	while (run.step < steps) {
		const whole = run.scene;
		const parts = partsOf(run);
		const ticks = tickOfStep(settings, 1) / parts;
		const begin = tickOfStep(settings, run.step);
		for (let part = 0; part < parts; part++) {
			const isLast = part + 1 === parts;
			const until = isLast ? tickOfStep(settings, run.step + 1) : begin + (part + 1) * ticks;
			advancePart(run, log, begin + part * ticks, until, whole, parts);
		}
		setParts(run, whole, 1);
		run.step++;
	}
}

/** A part of a step, of which it has so many; in two where a blow falls that is too fast for it. */
function advancePart(run: Run, log: FrameLog, begin: Ticks, end: Ticks, whole: SimScene, parts: number): void {
	setParts(run, whole, parts);
	if (advanceStep(run, log, begin, end, whole.joints.length === 0 ? parts : Number.POSITIVE_INFINITY)) {
		run.lastParts = parts;
		return;
	}
	const middle = (begin + end) / 2;
	advancePart(run, log, begin, middle, whole, 2 * parts);
	advancePart(run, log, middle, end, whole, 2 * parts);
}
