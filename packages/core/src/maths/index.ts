export * from "./curve";
export * from "./eigen";
export * from "./functions";
export * from "./noise";
export * from "./quaternion";
export * from "./random";
export type { Vec3 } from "./vector";
export * as vec3 from "./vector";
export { ONE, ZERO } from "./vector";
