export * from "./guards";
export * from "./kinds";
export * from "./make";
export * from "./marks";
export * from "./types";
