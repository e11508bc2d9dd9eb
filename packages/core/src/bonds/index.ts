export * from "./crumbs";
export * from "./facing";
export * from "./make";
export * from "./slabs";
export * from "./specs";
export * from "./types";
