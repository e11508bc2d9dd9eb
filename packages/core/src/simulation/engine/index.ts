export { ENGINE_BUILD, rapierEngine } from "./rapier";
export * from "./types";
