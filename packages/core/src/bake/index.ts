export * from "./tracks";
