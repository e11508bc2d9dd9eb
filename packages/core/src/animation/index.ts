export * from "./evaluate";
