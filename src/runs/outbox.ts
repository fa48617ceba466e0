import { formatNumber } from "@/core/format/numbers";
import path from "node:path";
import type { Delivery } from "@/core/pipeline/operating-schema";
import { parseTableName } from "@/core/pipeline/table-name";
import { describeProblem } from "@/core/problem";
import { listAlerts } from "@/store/alerts";
import { addMessages, type NewMessage } from "@/store/outbox";
import { readNotify } from "@/store/settings";
import { homeFolder, type Context } from "./context";

/** What this process has put into the outbox already. */
const told = new Set<string>();

/** Puts news of alerts into the outbox, for everybody who wants to hear of them: once when one comes up, and once when it clears. */
export async function tellOfAlerts(context: Context): Promise<void> {
  const { db } = context.store;
  const { webhook, mail, since } = await readNotify(db);
  if (webhook === null && mail === null) return;
  const news = (await listAlerts(db, 24)).flatMap((alert) => {
    const events = [
      ...(alert.openedAt >= since ? ["raised" as const] : []),
      ...(alert.clearedAt && alert.clearedAt >= since ? ["cleared" as const] : []),
    ];
    return events.flatMap((event): NewMessage[] => {
      const text =
        event === "raised" ? alert.problems.map(describeProblem).join("\n") : (alert.clearedWith ?? "");
      const common = {
        subject: event === "raised" ? alert.title : `Cleared: ${alert.title}`,
        key: `alert ${alert.id} ${event}`,
        runId: alert.runId,
      };
      return [
        ...(webhook === null
          ? []
          : [
              {
                ...common,
                kind: "webhook" as const,
                target: webhook,
                body: { event, kind: alert.kind, text, run: alert.runId },
              },
            ]),
        ...(mail === null
          ? []
          : [
              {
                ...common,
                kind: "mail" as const,
                target: mail.to,
                body: { server: mail.server, from: mail.from, text },
              },
            ]),
      ];
    });
  });
  const untold = news.filter((message) => !told.has(placeOf(message)));
  await addMessages(db, untold);
  for (const message of untold) told.add(placeOf(message));
}

const placeOf = ({ kind, target, key }: NewMessage): string => JSON.stringify([kind, target, key]);

export interface Landed {
  readonly run: string;
  readonly pipeline: string;
  readonly delivery: Delivery;
  readonly modelVersion: number;
  readonly runTime: Date;
  readonly rows: number;
}

/** Puts into the outbox what a delivery hands over beside its tables; a second attempt of the same run adds nothing. */
export async function handOver(
  context: Context,
  { run, pipeline, delivery, modelVersion, runTime, rows }: Landed,
): Promise<void> {
  const tables = [...delivery.routes.map((route) => route.table), delivery.table];
  const stamp = runTime
    .toISOString()
    .slice(0, 19)
    .replaceAll(/[^0-9T]/g, "");
  await addMessages(
    context.store.db,
    delivery.hand_over.flatMap((handover): NewMessage[] => {
      const common = {
        subject: `${pipeline}, ${delivery.name}: ${formatNumber(rows)} rows for ${runTime.toISOString()}`,
        runId: run,
      };
      if ("webhook" in handover)
        return [
          {
            ...common,
            kind: "webhook",
            target: handover.webhook,
            key: `run ${run} ${delivery.name}`,
            body: {
              event: "landed",
              pipeline,
              delivery: delivery.name,
              run,
              runTime: runTime.toISOString(),
              modelVersion,
              rows,
              tables,
            },
          },
        ];
      return tables.map((table) => ({
        ...common,
        kind: "file",
        target: path.join(homeFolder(), "drops", handover.folder),
        key: `run ${run} ${delivery.name} ${table}`,
        body: {
          table,
          run,
          name: `${(parseTableName(table)?.table ?? table).replaceAll(/[^\p{L}\p{N}_-]/gu, "_")}_${stamp}`,
          format: handover.format,
        },
      }));
    }),
  );
}
