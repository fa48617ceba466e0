/** Two kinds of tests: the core's, which need nothing, and those that need the PostgreSQL which `./ravlen test` starts. */
const shared = {
  transform: {
    "^.+\\.(t|m?j)sx?$": [
      "@swc/jest",
      {
        jsc: { target: "es2022", parser: { syntax: "typescript", tsx: true } },
        module: { type: "commonjs" },
      },
    ],
  },
  moduleNameMapper: { "^@/(.*)$": "<rootDir>/src/$1" },
  // These packages ship only as ES modules.
  transformIgnorePatterns: [
    "/node_modules/(?!(d3-[a-z-]+|internmap|diff|hyparquet|hyparquet-writer|hyparquet-compressors|hysnappy|fzstd|brotli|marked)/)",
  ],
  testEnvironment: "node",
  // Looking these up in the sandbox of a test costs more than the arithmetic they are used for.
  sandboxInjectedGlobals: [
    "Array",
    "BigInt",
    "Float64Array",
    "Int32Array",
    "Map",
    "Math",
    "Number",
    "Object",
    "Set",
    "String",
    "Uint32Array",
  ],
};

export default {
  projects: [
    {
      ...shared,
      displayName: "core",
      testMatch: [
        "<rootDir>/src/core/**/*.test.ts",
        "<rootDir>/src/ui/**/*.test.ts",
        "<rootDir>/src/warehouse/postgres/dialect/**/*.test.ts",
        "<rootDir>/testing/words/**/*.test.ts",
        "<rootDir>/testing/interpreter/**/*.test.ts",
      ],
    },
    {
      ...shared,
      displayName: "warehouse",
      testPathIgnorePatterns: ["/node_modules/", "<rootDir>/src/warehouse/postgres/dialect/"],
      testMatch: [
        "<rootDir>/src/{warehouse,runs,store,server,cli,worker}/**/*.test.ts",
        "<rootDir>/demo/**/*.test.ts",
        "<rootDir>/testing/golden/**/*.test.ts",
      ],
    },
  ],
};
