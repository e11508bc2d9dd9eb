export * from "./crop";
export * from "./reduce";
export * from "./remesh";
export * from "./repair";
export * from "./solids";
