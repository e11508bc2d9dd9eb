export { advanceTo } from "./advance";
export { posesAtTick } from "./framePoses";
export { muteOverlaps, unmuteParted } from "./muted";
export { checkpointOf, type Run, startRun } from "./run";
