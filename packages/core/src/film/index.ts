export * from "./draw";
export * from "./types";
