/** The application's own tables, by what they are about. */
export * from "./installation";
export * from "./models";
export * from "./operating";
export * from "./pipelines";
export * from "./runs";
export * from "./tables";
