export * from "./formula";
export * from "./links";
