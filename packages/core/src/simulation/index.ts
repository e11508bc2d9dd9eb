export * from "./checkpoint";
export * from "./checks";
export { type Engine, type EngineFactory, ENGINE_BUILD, rapierEngine } from "./engine";
export * from "./hashes";
export * from "./scene";
export * from "./simulate";
export * from "./take";
