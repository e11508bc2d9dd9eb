export * from "./changing";
export * from "./standing";
