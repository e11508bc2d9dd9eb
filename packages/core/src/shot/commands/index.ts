export * from "./bodies";
export * from "./fractures";
export * from "./keys";
export * from "./objects";
export * from "./settings";
