export * from "./camera";
export * from "./evaluate";
