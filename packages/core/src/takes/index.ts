export * from "./bakeKeys";
export * from "./carryOver";
export * from "./differences";
export * from "./numbers";
export * from "./overlapSeries";
export * from "./series";
export * from "./settle";
export * from "./sweep";
