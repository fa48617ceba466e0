import { spawn } from "node:child_process";
import { createHash } from "node:crypto";
import { existsSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";

const INPUTS = ["src", "package-lock.json", "next.config.ts", "postcss.config.mjs", "tsconfig.json"];
const STAMP = ".next/ravlen-build";

/** A hash of everything the built pages are made from. */
function fingerprint(root: string): string {
  const hash = createHash("sha256");
  const visit = (file: string): void => {
    for (const entry of readdirSync(file, { withFileTypes: true }).sort((left, right) =>
      left.name < right.name ? -1 : 1,
    )) {
      const full = path.join(file, entry.name);
      if (entry.isDirectory()) visit(full);
      else if (!entry.name.includes(".test.")) hash.update(full).update(readFileSync(full));
    }
  };
  for (const input of INPUTS) {
    const full = path.join(root, input);
    if (!existsSync(full)) continue;
    if (input === "src") visit(full);
    else hash.update(input).update(readFileSync(full));
  }
  return hash.digest("hex");
}

/** Builds the pages, unless they were built from the same sources. */
export async function buildPages(root: string, say: (line: string) => void): Promise<void> {
  const wanted = fingerprint(root);
  const stamp = path.join(root, STAMP);
  if (existsSync(stamp) && readFileSync(stamp, "utf8") === wanted) return;
  say("building the pages (about a minute)");
  await new Promise<void>((resolve, reject) => {
    const child = spawn(process.execPath, [path.join(root, "node_modules/next/dist/bin/next"), "build"], {
      cwd: root,
      env: { ...process.env, NODE_ENV: "production", NEXT_TELEMETRY_DISABLED: "1" },
      stdio: ["ignore", "pipe", "pipe"],
    });
    let output = "";
    child.stdout.on("data", (chunk: Buffer) => (output += chunk.toString()));
    child.stderr.on("data", (chunk: Buffer) => (output += chunk.toString()));
    child.on("exit", (code) =>
      code === 0 ? resolve() : reject(new Error(`the pages could not be built:\n${output.slice(-4000)}`)),
    );
  });
  writeFileSync(stamp, wanted);
}
