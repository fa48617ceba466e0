import { formatBytes, formatNumber } from "@/core/format/numbers";
import { totalmem } from "node:os";
import { factsOf } from "@/core/learn/algorithms";
import { bytesNeeded, ROWS_FOR_THREADS, type ColumnData } from "@/core/learn/memory/column-data";
import { MemoryFrame } from "@/core/learn/memory/memory-frame";
import type { FrameQuestions } from "@/core/learn/questions";
import { uniformSql } from "@/core/learn/sql/tree-sql";
import type { Engine } from "@/core/learn/task";
import { taskOf, type Fold } from "@/core/plan/frame";
import { TRAINING_PART } from "@/core/plan/split";
import type { Candidate } from "@/core/pipeline/schema";
import { problem, ProblemError, warning } from "@/core/problem";
import { quoteIdentifier, quoteTable } from "@/core/sql/quote";
import { DRAW_COLUMN, FOLD_COLUMN, PART_COLUMN } from "@/core/steps/step";
import { WarehouseFrame } from "@/warehouse/frame-questions";
import { streamFrame } from "@/warehouse/stream-frame";
import { openTeam, type Team } from "../threads/team";
import type { PreparedFrame } from "./prepare";
import { type Workshop } from "./workshop";

const MEGABYTE = 1024 * 1024;
/** Keeps the share of rows that a quick trial learns from apart from every other use of the rows' random numbers. */
const SHARE_SEED = 41;

/** Bytes that streamed rows may take: a setting of the server, or half of the computer's memory. */
export function memoryLimit(): number {
  const set = Number(process.env["RAVLEN_MEMORY_MB"]);
  return Number.isFinite(set) && set > 0 ? set * MEGABYTE : totalmem() / 2;
}

/**
 * Which engine a candidate trains with, given its rows. Streaming that cannot fit is refused beforehand, with the need stated.
 * @param share of the rows that is learned from; the others are not streamed
 */
export async function chooseEngine(
  shop: Workshop,
  candidate: Candidate,
  prepared: PreparedFrame,
  share: number,
): Promise<Engine> {
  const facts = factsOf(candidate.algorithm);
  const wanted =
    candidate.engine === "auto"
      ? facts.prefers(prepared.rows, prepared.shape.numbers.length)
      : candidate.engine;
  if (wanted === "warehouse") return wanted;
  const rows = Math.ceil(prepared.rows * share);
  const need = bytesNeeded(rows, prepared.shape.numbers.length, prepared.shape.categories.length);
  const limit = memoryLimit();
  if (need <= limit) return wanted;
  const says = `Streaming ${formatNumber(rows)} rows of ${prepared.shape.numbers.length + prepared.shape.categories.length} columns needs about ${formatBytes(need)}; ${formatBytes(limit)} are set aside for it.`;
  if (candidate.engine === "auto" && facts.engines.includes("warehouse")) {
    await shop.recorder.warn([
      warning("needs_memory", says, "The rows stay in the warehouse instead, which takes longer."),
    ]);
    return "warehouse";
  }
  throw new ProblemError(
    problem(
      "needs_memory",
      says,
      `${facts.engines.includes("warehouse") ? "Use engine: warehouse, train" : "Train"} on a share of the rows, or set RAVLEN_MEMORY_MB higher on a computer that has more.`,
    ),
  );
}

/** The engine for the many fits of a search: rows stream once, if they fit. */
export function searchEngine(candidate: Candidate, { rows, shape }: PreparedFrame, share: number): Engine {
  if (candidate.engine !== "auto") return candidate.engine;
  return bytesNeeded(rows * share, shape.numbers.length, shape.categories.length) <= memoryLimit()
    ? "streaming"
    : "warehouse";
}

/** Condition for the rows that are learned from. */
export function learnedWhere(leftOut: Fold | undefined, share: number): string {
  const conditions = [`${quoteIdentifier(PART_COLUMN)} = ${TRAINING_PART}`];
  if (leftOut)
    conditions.push(
      `${quoteIdentifier(FOLD_COLUMN)} ${leftOut.forward ? "<" : "<>"} ${Math.trunc(leftOut.fold)}`,
    );
  if (share < 1) conditions.push(`${uniformSql(quoteIdentifier(DRAW_COLUMN), SHARE_SEED)} < ${share}`);
  return conditions.join(" AND ");
}

/** A frame that can be asked, and what has to be given back afterwards. */
export interface OpenFrame {
  readonly ask: FrameQuestions;
  readonly close: () => Promise<void>;
}

/** Opens a frame for a learner: in the warehouse, or streamed to here. */
export async function openFrame(
  shop: Workshop,
  engine: Engine,
  prepared: PreparedFrame,
  options: {
    readonly leftOut?: Fold;
    readonly share: number;
    readonly folded: boolean;
    readonly which?: string;
    readonly kept?: ColumnData;
  },
): Promise<OpenFrame & { readonly data?: ColumnData }> {
  const { plan, session } = shop;
  const { shape, frame } = prepared;
  const task = taskOf(plan, shape);
  const where = learnedWhere(options.leftOut, options.share);
  const weighted = plan.file.roles.weight !== undefined;
  const timed = plan.file.roles.time !== undefined;
  if (engine === "warehouse") {
    const name = (purpose: "sample" | "state", which: string): string =>
      quoteTable(shop.scratch(purpose, `${options.which ?? ""}${which}`));
    const ask = new WarehouseFrame(session, {
      frame: quoteTable(frame),
      sample: name("sample", "a"),
      states: [name("state", "a"), name("state", "b")],
      numbers: shape.numbers,
      categories: shape.categories,
      task,
      where,
      weighted,
      timed,
    });
    return { ask, close: () => Promise.resolve() };
  }
  const [counted] = await session.run(
    `SELECT count(*)::integer AS rows FROM ${quoteTable(frame)} WHERE ${where}`,
    "count the rows to stream",
  );
  const data =
    options.kept ??
    (await streamFrame(
      session,
      {
        frame: quoteTable(frame),
        where,
        numbers: shape.numbers,
        categories: shape.categories,
        weighted,
        timed,
        folded: options.folded,
        rows: Number(counted?.["rows"] ?? 0),
      },
      () => shop.recorder.stopIfAsked(),
    ));
  const team: Team | undefined = data.rows >= ROWS_FOR_THREADS ? await openTeam() : undefined;
  return {
    ask: new MemoryFrame(task, data, team),
    data,
    close: async () => {
      await team?.close();
    },
  };
}
