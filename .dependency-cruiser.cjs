/** The arrows of the layout: they point down only. What is not listed under a layer may not be imported by it. */
const BELOW = {
  core: [],
  warehouse: ["core"],
  store: ["core", "warehouse"],
  runs: ["core", "warehouse", "store"],
  server: ["core", "warehouse", "store", "runs"],
  worker: ["core", "warehouse", "store", "runs"],
  cli: ["core", "warehouse", "store", "runs", "server"],
  app: ["core", "warehouse", "store", "runs", "server", "ui"],
};

const layers = Object.entries(BELOW).map(([layer, below]) => ({
  name: `${layer}-points-down`,
  severity: "error",
  from: { path: `^src/${layer}/`, pathNot: "\\.test\\.tsx?$" },
  to: { path: "^src/", pathNot: `^src/(${[layer, ...below].join("|")})/` },
}));

module.exports = {
  forbidden: [
    ...layers,
    {
      name: "ui-runs-only-core-code",
      comment:
        "The interface computes with the core and asks the server for the rest; of other layers it may know types and call server actions.",
      severity: "error",
      from: { path: "^src/ui/" },
      to: { path: "^src/(app|runs|store|warehouse|worker|cli)/", dependencyTypesNot: ["type-only"] },
    },
    {
      name: "no-parser-in-the-browser",
      comment:
        "The file's whole schema knows the steps, and they the parser of expressions, which does not run in a page.",
      severity: "error",
      from: { path: "^src/ui/" },
      to: {
        path: "^src/core/(pipeline/(schema|parse)|expression/parse|steps/index)\\.ts$",
        dependencyTypesNot: ["type-only"],
      },
    },
    {
      name: "ui-calls-actions-only",
      severity: "error",
      from: { path: "^src/ui/" },
      to: {
        path: "^src/server/",
        pathNot:
          "^src/server/(actions|connection-actions|demo-actions|draft-actions|file-actions|import-actions|operating-actions|pipeline-actions|table-actions|training-actions)\\.ts$",
        dependencyTypesNot: ["type-only"],
      },
    },
    {
      name: "core-is-pure",
      comment: "No input or output, no React, no Next, no driver in the core. Hashes are arithmetic.",
      severity: "error",
      from: { path: "^src/core/", pathNot: "\\.test\\.ts$" },
      to: {
        path: "(^node:|^(fs|net|http|child_process|worker_threads)$|node_modules/(react|react-dom|next|pg|pg-[a-z-]+|drizzle-orm|pino)/)",
        pathNot: "^(node:)?crypto$",
      },
    },
    {
      name: "drivers-in-their-rooms",
      comment:
        "A warehouse's driver is known where its kind is; besides, only our own store and queue use one.",
      severity: "error",
      from: {
        path: "^src/",
        pathNot:
          "^src/(warehouse/postgres|store|cli)/|^src/runs/queue\\.ts$|^src/server/events\\.ts$|\\.test\\.ts$",
      },
      to: { path: "node_modules/(@types/)?(pg|pg-copy-streams|pg-cursor)/" },
    },
    {
      name: "kinds-of-warehouses-behind-their-port",
      comment:
        "What asks a warehouse knows the port (warehouse/port); which kinds there are, only warehouse/engines.",
      severity: "error",
      from: {
        path: "^src/",
        pathNot: "^src/(warehouse/(postgres/|engines\\.ts$)|cli/services/)|\\.test\\.ts$",
      },
      to: { path: "^src/warehouse/postgres/" },
    },
    {
      name: "no-circles",
      severity: "error",
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ["type-only"] } },
    },
    {
      name: "nothing-unused",
      severity: "error",
      from: {
        orphan: true,
        path: "^src/",
        pathNot: "(\\.d\\.ts$|^src/app/|^src/worker/main\\.ts$|^src/cli/(main|web)\\.ts$|schema\\.ts$)",
      },
      to: {},
    },
  ],
  options: {
    doNotFollow: { path: "node_modules" },
    exclude: { path: "\\.test\\.tsx?$" },
    tsConfig: { fileName: "tsconfig.json" },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      exportsFields: ["exports"],
      conditionNames: ["import", "require", "node", "default", "types"],
    },
  },
};
