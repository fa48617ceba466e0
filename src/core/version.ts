/** Part of every plan hash: raise it when the same file would compile to something that gives other numbers. */
export const CORE_VERSION = "2";
