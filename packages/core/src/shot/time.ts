import type { ShotSettings, Ticks } from "./types";

/** Exact for 24, 25, 30, 48, 50 and 60 frames a second. */
export const TICKS_PER_SECOND = 1200;

type Rate = Pick<ShotSettings, "fps" | "firstFrame">;

/** The tick at which a frame is read; the first frame of the range is tick 0. */
export const tickOfFrame = (settings: Rate, frame: number): Ticks =>
	Math.round(((frame - settings.firstFrame) * TICKS_PER_SECOND) / settings.fps);

/** The frame shown for a tick; not an integer where the frame rate was changed after keying. */
export const frameOfTick = (settings: Rate, tick: Ticks): number => settings.firstFrame + (tick * settings.fps) / TICKS_PER_SECOND;

export const secondsOfTick = (tick: Ticks): number => tick / TICKS_PER_SECOND;

export const frameCount = (settings: ShotSettings): number => settings.lastFrame - settings.firstFrame + 1;

/** Substeps per frame as people see them; may be 4.8. */
export const substepsPerFrame = (settings: ShotSettings): number => settings.stepsPerSecond / settings.fps;

/** The frame from which on things move by themselves; never before the first. */
export const simulationStart = ({ firstFrame, startFrame }: Pick<ShotSettings, "firstFrame" | "startFrame">): number =>
	Math.max(firstFrame, startFrame ?? firstFrame);
