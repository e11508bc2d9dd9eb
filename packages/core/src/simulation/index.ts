export { restingUse } from "./bonded";
export * from "./checkpoint";
export * from "./checks";
export { ENGINE_BUILD, type Engine, type EngineFactory, rapierEngine } from "./engine";
export * from "./hashes";
export { findStartOverlaps } from "./overlaps";
export * from "./scene";
export * from "./simulate";
export * from "./take";
