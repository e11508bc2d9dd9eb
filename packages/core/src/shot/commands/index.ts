export * from "./bodies";
export * from "./bonds";
export * from "./connectors";
export * from "./fractures";
export * from "./keys";
export * from "./links";
export * from "./objects";
export * from "./settings";
