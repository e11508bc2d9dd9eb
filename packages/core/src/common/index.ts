export * from "./canonical";
export * from "./plainCopy";
export * from "./problem";
export * from "./progress";
export * from "./steps";
