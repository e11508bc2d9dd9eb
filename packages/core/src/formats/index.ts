export * from "./export";
export { glb } from "./glb";
export * from "./import";
export { writeObj } from "./obj";
export { readPicture } from "./picture";
export { readSvg } from "./svg";
export type { ExportItem, ExportScene, MeshFormat, ReadModel, TakeFormat } from "./types";
