export * from "./camera";
export * from "./evaluate";
export * from "./speed";
