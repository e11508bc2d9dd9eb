export * from "./colouring";
export * from "./pixels";
export * from "./srgb";
