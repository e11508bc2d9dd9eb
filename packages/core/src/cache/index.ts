export * from "./chunk";
export * from "./frames";
