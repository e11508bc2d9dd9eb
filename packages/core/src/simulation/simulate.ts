import { CHUNK_FRAMES, type Chunk } from "../cache";
import { type Progress, report } from "../common";
import { tickOfFrame } from "../shot";
import { bearLoads, springBack, weaken } from "./bonded";
import type { Checkpoint } from "./checkpoint";
import { crumble } from "./crumble";
import type { BodyState, EngineFactory } from "./engine";
import { takeBorne, takePulls } from "./joints";
import { pushedBodies } from "./pushes";
import { type FrameLog, makeFrameLog, makeRecorder, recordFrame, takeChunk } from "./recorder";
import { settleStill, sleepStill } from "./rest";
import { advanceTo, checkpointOf, muteOverlaps, posesAtTick, type Run, startRun, unmuteParted } from "./run";
import type { SimScene } from "./scene";
import { showStill } from "./still";
import { NO_STOPWATCH, type Stopwatch, timed } from "./stopwatch";

export interface SimulateOptions extends Progress {
	/** Go on after this frame instead of starting anew. */
	readonly from?: Checkpoint;
	/** Where and how fast bodies are at `from`, where that is of another set-up whose engine is of no use; see `goOnFrom`. */
	readonly state?: BodyState | undefined;
	/** Is told which part of a frame the time goes to. */
	readonly stopwatch?: Stopwatch;
	/** The last frame to make; the range's by default. */
	readonly until?: number;
	/**
	 * Gets each chunk as it is done, with the checkpoint at its end. A run that is cancelled hands over what it has
	 * without a checkpoint: going on later starts at the last one and makes those frames again, with the same bytes.
	 */
	readonly onChunk: (chunk: Chunk, checkpoint: Checkpoint | undefined) => void | Promise<void>;
}

export interface SimulateResult {
	/** The last frame that was made. */
	readonly frame: number;
	readonly finished: boolean;
}

/** Runs the scene frame by frame. The same scene gives the same bytes, on every machine and in one go or several. */
export async function simulate(steady: SimScene, factory: EngineFactory, options: SimulateOptions): Promise<SimulateResult> {
	const { settings } = steady;
	// A run that changes gravity has its own record of it: others may look at the scene meanwhile.
	const scene = settings.gravityKeys ? { ...steady, gravity: steady.gravity.slice() } : steady;
	const last = options.until ?? settings.lastFrame;
	const watch = options.stopwatch ?? NO_STOPWATCH;
	const run = await startRun(scene, factory, options.from, options.state, watch);
	let frame = options.from ? options.from.frame + 1 : settings.firstFrame;
	const recorder = makeRecorder(scene, frame);
	try {
		for (; frame <= last; frame++) {
			const tick = tickOfFrame(settings, frame);
			const log = makeFrameLog(tick);
			if (run.hasBonds) timed(watch, "bonds", () => weaken(run, run.bonded, tick));
			advanceTo(run, tick, log);
			if (run.hasBonds) timed(watch, "bonds", () => bear(run, log));
			if (run.crumbles) log.crumbled.push(...crumble(run, run.crumble, run.crumbling));
			unmuteParted(run);
			settleStill(scene, run.engine, run.after, run.rest);
			sleepStill(scene, run.engine, run.after, run.rest, frame - settings.firstFrame);
			const poses = posesAtTick(run, tick);
			showStill(scene, run.rest, run.still, poses);
			takeBorne(run.joints, log.borne);
			recordFrame(recorder, frame, run.after, poses, run.joints.load, log);
			if (recorder.poses.length === CHUNK_FRAMES || frame === last)
				await timed(watch, "storing", () => options.onChunk(takeChunk(recorder), checkpointOf(run, frame)));
			await report(options, (frame - settings.firstFrame + 1) / (last - settings.firstFrame + 1), `Frame ${frame}`);
		}
		return { frame: last, finished: true };
	} catch (error) {
		if (!options.signal?.aborted) throw error;
		if (recorder.poses.length > 0) await options.onChunk(takeChunk(recorder), undefined);
		return { frame: Math.min(frame, last), finished: false };
	} finally {
		run.engine.dispose();
	}
}

/** Slow loads at the end of a frame, and what blows that are over have left. */
function bear(run: Run, log: FrameLog): void {
	const { scene, engine } = run;
	springBack(run, run.bonded);
	takePulls(run, run.joints, run.pulls, 1 / scene.settings.fps, run.bonded.state.pull);
	const broke = bearLoads(run, run.bonded, pushedBodies(run, scene.bonded));
	if (broke.length === 0) return;
	log.broken.push(...broke);
	muteOverlaps(run, broke);
	engine.readState(run.after);
}
