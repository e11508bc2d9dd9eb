export * from "./changing";
