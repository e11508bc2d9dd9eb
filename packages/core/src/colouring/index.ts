export * from "./colouring";
