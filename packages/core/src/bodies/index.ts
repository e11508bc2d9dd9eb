export * from "./build";
export * from "./collider";
export { buildPieces, piecesHash } from "./pieces";
export * from "./pose";
export * from "./rule";
export * from "./settings";
export { buildMesh, makeWorkshop, meshHash, reportMesh, type Workshop } from "./workshop";
