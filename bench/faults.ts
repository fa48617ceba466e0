import { labFile, labTable } from "../testing/lab";
import { TestInstallation } from "../testing/installation";
import { backfillModes } from "./fault-modes";
import {
  arrivedNever,
  fellSilent,
  orderedTogether,
  receiverSilent,
  servedAndRetired,
  stoodStill,
} from "./fault-moments";
import { FaultSuite, type FaultResult } from "./fault-suite";

const ROWS = 20_000;

/** Tries every fault for real, on an installation of its own, and counts what it leaves behind. */
export async function runFaults(
  { rows, minutes }: { readonly rows: number; readonly minutes: number },
  only: string | undefined,
  say: (line: string) => void,
): Promise<{ readonly results: readonly FaultResult[]; readonly large: string | undefined }> {
  const place = await TestInstallation.open();
  try {
    await place.sql(labTable({ rows: ROWS }));
    await place.save(labFile());
    const worker = await place.startWorker();
    await place.ended(await place.order("train", "2026-06-30T12:00:00Z"));
    await place.serveNewest();
    await place.ended(await place.order("score", "2026-06-30T12:00:00Z"));
    await place.kill(worker);
    const suite = new FaultSuite(place, say);
    const faults: readonly (readonly [string, () => Promise<unknown>])[] = [
      ["killed", () => suite.killed()],
      ["restarted", () => suite.restarted()],
      ["web", () => suite.webKilled()],
      [
        "workers",
        async () => {
          await suite.crowded(2);
          await suite.crowded(5);
        },
      ],
      [
        "locked",
        async () => {
          await suite.locked("lab.rows", 4);
          await suite.locked("predictions.lab", 4);
        },
      ],
      [
        "changed",
        async () => {
          await suite.changed("target dropped", "DROP TABLE predictions.lab", "SELECT 1");
          await suite.changed(
            "target altered",
            "ALTER TABLE predictions.lab RENAME COLUMN probability TO chance",
            "ALTER TABLE predictions.lab RENAME COLUMN chance TO probability",
          );
          await suite.changed(
            "target without its key",
            "ALTER TABLE predictions.lab DROP CONSTRAINT lab_pkey",
            "ALTER TABLE predictions.lab ADD PRIMARY KEY (id)",
          );
        },
      ],
      ["disk", () => suite.diskFull()],
      ["together", () => suite.together()],
      ["cancelled", () => suite.cancelled()],
      ["clock", () => suite.clockJumps()],
      ["minutely", () => suite.everyMinute(minutes)],
      ["still", () => stoodStill(place, suite)],
      ["silent", () => fellSilent(place, suite)],
      ["twins", () => orderedTogether(place, suite)],
      ["retired", () => servedAndRetired(place, suite)],
      ["arrival", () => arrivedNever(place, suite)],
      ["receiver", () => receiverSilent(place, suite)],
      ["modes", async () => suite.results.push(...(await backfillModes(place, say)))],
    ];
    for (const [name, work] of faults) if (only === undefined || only === name) await work();
    const large = rows > 0 && (only === undefined || only === "many") ? await suite.many(rows) : undefined;
    return { results: suite.results, large };
  } finally {
    await place.close();
  }
}
