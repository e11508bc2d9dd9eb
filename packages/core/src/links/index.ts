export * from "./formula";
export * from "./links";
export * from "./mesh";
