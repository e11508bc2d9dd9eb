export * from "./canonical";
export * from "./problem";
export * from "./progress";
