import { availableParallelism } from "node:os";
import type { Worker } from "node:worker_threads";
import { askBlock, blockData, type BlockQuestion, type TreeBlocks } from "@/core/learn/memory/blocks";
import type { ColumnData } from "@/core/learn/memory/column-data";
import { TreeBlock } from "@/core/learn/memory/tree-block";
import type { BlockAnswer, BlockMessage } from "./block-thread";
import { startThread } from "./thread";

/** Blocks of rows in several threads, the first of them in this one. */
export interface Team extends TreeBlocks {
  readonly close: () => Promise<void>;
}

/** Starts threads, one for each further processor. Arrays that are shared are read where they are; others are copied to their thread. */
export async function openTeam(size = Math.min(availableParallelism(), 8)): Promise<Team> {
  const threads = await Promise.all(Array.from({ length: size - 1 }, () => start()));
  let held: ColumnData | undefined;
  let own: TreeBlock | undefined;
  return {
    count: size,
    load: (data) => {
      if (held === data) return;
      held = data;
      const [first, ...others] = blockData(data, size);
      own = new TreeBlock(first!);
      others.forEach((data, index) =>
        tell(threads[index]!, {
          kind: "load",
          data: {
            ...data,
            numbers: data.numbers.map(sendable),
            categories: data.categories.map(({ codes, levels }) => ({ codes: sendable(codes), levels })),
            target: sendable(data.target),
            weight: data.weight && sendable(data.weight),
            draw: sendable(data.draw),
          },
        }),
      );
    },
    ask: async <Name extends BlockQuestion>(
      name: Name,
      parameters: (block: number) => Parameters<TreeBlock[Name]>,
    ) => {
      if (!own) throw new Error("load() comes first");
      const others = threads.map((thread, index) =>
        answer(thread, { kind: "ask", name, parameters: parameters(index + 1) }),
      );
      const first = askBlock(own, name, parameters(0));
      return [first, ...((await Promise.all(others)) as readonly ReturnType<TreeBlock[Name]>[])];
    },
    close: async () => {
      await Promise.all(threads.map((thread) => thread.terminate()));
    },
  };
}

/** A message copies all of an array's memory unless that is shared, so only the part that is meant is sent. */
function sendable<Values extends Float64Array | Int32Array>(values: Values): Values {
  return values.buffer instanceof SharedArrayBuffer ? values : (values.slice() as Values);
}

const tell = (thread: Worker, message: BlockMessage): void => thread.postMessage(message);

function start(): Promise<Worker> {
  const thread = startThread("block-thread");
  return new Promise((resolve, reject) => {
    thread.once("error", reject);
    thread.once("message", () => resolve(thread));
  });
}

/** Asks a thread and waits for its answer; a thread that fails rejects. */
function answer(thread: Worker, message: BlockMessage): Promise<unknown> {
  return new Promise((resolve, reject) => {
    const failed = (error: Error): void => reject(error);
    thread.once("error", failed);
    thread.once("message", (given: BlockAnswer) => {
      thread.off("error", failed);
      if (given.kind === "failed") reject(new Error(given.message));
      else resolve(given.kind === "answer" ? given.value : undefined);
    });
    tell(thread, message);
  });
}
