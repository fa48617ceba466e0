import { columnsOf } from "@/core/expression/visit";
import { formatBytes, formatNumber } from "@/core/format/numbers";
import { factsOf } from "@/core/learn/algorithms";
import { bytesNeeded, ROWS_FOR_THREADS, type ColumnData } from "@/core/learn/memory/column-data";
import { MemoryFrame } from "@/core/learn/memory/memory-frame";
import type { FrameQuestions } from "@/core/learn/questions";
import type { Engine } from "@/core/learn/task";
import { learnedRows, taskOf, type Fold } from "@/core/plan/frame";
import type { Candidate } from "@/core/pipeline/schema";
import { problem, ProblemError, warning } from "@/core/problem";
import { rowCountQuestion } from "@/core/questions/row-count";
import { filter, table, type TableReference } from "@/core/relation/relation";
import { WarehouseFrame } from "@/warehouse/frame-questions";
import { streamFrame } from "@/warehouse/stream-frame";
import { memoryLimit, takeMemory } from "../capacity/memory";
import { openTeam, type Team } from "../threads/team";
import type { PreparedFrame } from "./prepare";
import { type Workshop } from "./workshop";

/**
 * Which engine a candidate trains with, given its rows. Streaming that cannot fit is refused beforehand, with the need stated.
 */
export async function chooseEngine(
  shop: Workshop,
  candidate: Candidate,
  prepared: PreparedFrame,
): Promise<Engine> {
  const facts = factsOf(candidate.algorithm);
  const wanted =
    candidate.engine === "auto"
      ? facts.prefers(prepared.rows, prepared.shape.numbers.length)
      : candidate.engine;
  if (wanted === "warehouse") return wanted;
  const { rows } = prepared;
  const need = bytesNeeded(rows, prepared.shape.numbers.length, prepared.shape.categories.length);
  const limit = memoryLimit();
  if (need <= limit) return wanted;
  const says = `Streaming ${formatNumber(rows)} rows of ${prepared.shape.numbers.length + prepared.shape.categories.length} columns needs about ${formatBytes(need)}; ${formatBytes(limit)} are available.`;
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
      `${facts.engines.includes("warehouse") ? "Use engine: warehouse, train" : "Train"} on a share of the rows, or raise RAVLEN_MEMORY_MB on a computer with more memory.`,
    ),
  );
}

/** The engine for the many fits of a search: rows stream once, if they fit. */
export function searchEngine(candidate: Candidate, { rows, shape }: PreparedFrame): Engine {
  if (candidate.engine !== "auto") return candidate.engine;
  return bytesNeeded(rows, shape.numbers.length, shape.categories.length) <= memoryLimit()
    ? "streaming"
    : "warehouse";
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
    readonly folded: boolean;
    readonly which?: string;
    readonly kept?: ColumnData;
  },
): Promise<OpenFrame & { readonly data?: ColumnData }> {
  const { plan, session } = shop;
  const { shape, frame } = prepared;
  const task = taskOf(plan, shape);
  const condition = learnedRows(options.leftOut);
  const weighted = plan.file.roles.weight !== undefined;
  const timed = plan.file.roles.time !== undefined;
  if (engine === "warehouse") {
    const name = (purpose: "sample" | "state", which: string): TableReference =>
      shop.scratch(purpose, `${options.which ?? ""}${which}`);
    const ask = new WarehouseFrame(session, {
      frame,
      sample: name("sample", "a"),
      states: [name("state", "a"), name("state", "b")],
      numbers: shape.numbers,
      categories: shape.categories,
      task,
      condition,
      weighted,
      timed,
    });
    return { ask, close: () => Promise.resolve() };
  }
  const learned = filter(table(frame, columnsOf(condition)), condition);
  const rows = await session.ask(rowCountQuestion(learned, "count the rows to stream"));
  const giveBack = await takeMemory(
    shop.context,
    shop.recorder,
    bytesNeeded(rows, shape.numbers.length, shape.categories.length),
  );
  let team: Team | undefined;
  const close = async (): Promise<void> => {
    await team?.close();
    await giveBack();
  };
  try {
    const data =
      options.kept ??
      (await streamFrame(
        session,
        {
          frame,
          condition,
          numbers: shape.numbers,
          categories: shape.categories,
          weighted,
          timed,
          folded: options.folded,
          rows,
        },
        () => shop.recorder.stopIfAsked(),
      ));
    team = data.rows >= ROWS_FOR_THREADS ? await openTeam() : undefined;
    return { ask: new MemoryFrame(task, data, { team, breathe: shop.recorder.breathe }), data, close };
  } catch (error) {
    await close();
    throw error;
  }
}
