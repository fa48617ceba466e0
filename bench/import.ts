import { createReadStream, createWriteStream, mkdtempSync, rmSync } from "node:fs";
import { once } from "node:events";
import { tmpdir } from "node:os";
import path from "node:path";
import { pipeline } from "node:stream/promises";
import { from as copyFrom } from "pg-copy-streams";
import type { AdminLogin } from "@/cli/services/postgres";
import type { Choices } from "@/core/files/look";
import { loadFile } from "@/runs/import/load";
import { lookAtFile } from "@/runs/import/look-at-file";
import { openBench } from "../testing/warehouse";
import type { Ratio } from "./run";

const LINE = 62;

/** A file as exports are: numbers, times, texts with commas now and then. */
async function writeFile(file: string, rows: number): Promise<void> {
  const out = createWriteStream(file);
  out.write("order_id,placed_at,site,amount,label,paid\n");
  let piece = "";
  for (let index = 0; index < rows; index += 1) {
    piece += `${index + 1},2026-0${1 + (index % 9)}-1${index % 10} 10:${10 + (index % 50)}:00,${100 + (index % 77)},${((index * 7919) % 100_000) / 100},${index % 40 === 0 ? '"label, quoted"' : `label number ${index % 1000}`},${index % 3 === 0}\n`;
    if (piece.length > 1 << 20) {
      if (!out.write(piece)) await once(out, "drain");
      piece = "";
    }
  }
  out.end(piece);
  await once(out, "finish");
}

/** How fast files load, against PostgreSQL's own COPY of the same file into the same table; and how memory grows meanwhile. */
export async function benchImport(
  admin: AdminLogin,
  megabytes: number,
  rounds: number,
  say: (line: string) => void,
): Promise<readonly Ratio[]> {
  const bench = await openBench(admin);
  const folder = mkdtempSync(path.join(tmpdir(), "ravlen-bench-import-"));
  const file = path.join(folder, "orders.csv");
  try {
    say(`writing a CSV file of ${megabytes} MB`);
    await writeFile(file, Math.round((megabytes * 1e6) / LINE));
    let started = performance.now();
    const look = await lookAtFile(file, "orders.csv");
    const looking = performance.now() - started;
    const columns = look.choices.columns.map((column) => `"${column.name}" ${column.type}`).join(", ");
    const ratios: Record<"plain" | "rows" | "look", number[]> = { plain: [], rows: [], look: [] };
    let heap = 0;
    const peak = setInterval(() => {
      heap = Math.max(heap, process.memoryUsage().rss);
    }, 100);
    const base: Choices = { ...look.choices, table: "bench_orders", mode: "replace", misfits: "stop" };
    const load = async (choices: Choices): Promise<number> => {
      const from = performance.now();
      const { plain } = await loadFile(bench.context.warehouse, file, look, choices, {
        onProgress: () => undefined,
        signal: new AbortController().signal,
        rejectsFile: path.join(folder, "rejects"),
      });
      if (plain !== (choices === base)) throw new Error("the file was not loaded as this measurement means");
      return performance.now() - from;
    };
    // A column that is left out makes every row be read and written again.
    const read: Choices = {
      ...base,
      columns: base.columns.map((column) => (column.name === "label" ? { ...column, take: false } : column)),
    };
    for (let round = 1; round <= rounds; round += 1) {
      say(`import, round ${round} of ${rounds}`);
      const copy = await bench.admin(async (client) => {
        await client.query("SET datestyle = ISO; DROP TABLE IF EXISTS public.orders");
        await client.query(`CREATE TABLE public.orders (${columns})`);
        started = performance.now();
        await pipeline(
          createReadStream(file, { highWaterMark: 1 << 18 }),
          client.query(copyFrom("COPY public.orders FROM STDIN (FORMAT csv, HEADER)")),
        );
        if (base.key.length > 0)
          await client.query(
            `ALTER TABLE public.orders ADD PRIMARY KEY (${base.key.map((text) => `"${text}"`).join(", ")})`,
          );
        return performance.now() - started;
      });
      ratios.plain.push((await load(base)) / copy);
      ratios.rows.push((await load(read)) / copy);
      ratios.look.push(looking / copy);
    }
    clearInterval(peak);
    const middle = (values: readonly number[]): number =>
      [...values].sort((left, right) => left - right)[Math.floor(values.length / 2)]!;
    const against = "COPY of the file into the same table with its key";
    return [
      { work: "CSV loaded as it is", against, ratio: middle(ratios.plain), most: 2 },
      { work: "CSV read, converted and written row by row", against, ratio: middle(ratios.rows) },
      { work: "all of the file looked at beforehand", against, ratio: middle(ratios.look) },
      { work: "most memory while loading", against: "the file's size", ratio: heap / look.bytes },
    ];
  } finally {
    rmSync(folder, { recursive: true, force: true });
    await bench.close();
  }
}
