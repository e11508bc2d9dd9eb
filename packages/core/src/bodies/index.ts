export * from "./bodyCollider";
export * from "./bringIn";
export * from "./build";
export * from "./collider";
export { estimateArrayFill, type FillFacts } from "./fill";
export * from "./kept";
export * from "./livePatches";
export * from "./look";
export * from "./material";
export { measuresOf } from "./measures";
export { membersOf } from "./members";

export { buildPieces, piecesHash, shelvePieces } from "./pieces";
export * from "./pose";
export * from "./region";
export * from "./rework";
export * from "./rule";
export * from "./settings";
export { buildMesh, makeWorkshop, meshHash, reportMesh, type Workshop } from "./workshop";
