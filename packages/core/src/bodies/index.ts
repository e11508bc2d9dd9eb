export * from "./build";
export * from "./collider";
export * from "./rule";
export * from "./settings";
