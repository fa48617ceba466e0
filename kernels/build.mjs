import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";

/**
 * Compiles the kernels to WebAssembly and prints them as a TypeScript module: `npm run -s kernels > src/core/learn/memory/kernels/tree-kernels.ts`.
 * The result is kept with the sources, so that nothing has to be compiled where the application runs.
 */
const here = path.dirname(fileURLToPath(import.meta.url));
const folder = mkdtempSync(path.join(tmpdir(), "ravlen-kernels-"));
try {
  const out = path.join(folder, "tree-kernels.wasm");
  execFileSync(
    process.execPath,
    [
      path.join(here, "../node_modules/assemblyscript/bin/asc.js"),
      path.join(here, "tree-kernels.ts"),
      "-O3",
      "--noAssert",
      "--runtime",
      "stub",
      "--enable",
      "simd",
      "--outFile",
      out,
    ],
    { stdio: ["ignore", "ignore", "inherit"] },
  );
  process.stdout.write(
    `/** Compiled from kernels/tree-kernels.ts by \`npm run kernels\`; not to be edited. */\nexport const TREE_KERNELS = "${readFileSync(out).toString("base64")}";\n`,
  );
} finally {
  rmSync(folder, { recursive: true, force: true });
}
