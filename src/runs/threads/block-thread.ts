import { parentPort } from "node:worker_threads";
import { askBlock, type BlockQuestion } from "../../core/learn/memory/blocks";
import type { BlockData } from "../../core/learn/memory/block-layout";
import { TreeBlock } from "../../core/learn/memory/tree-block";

/** What a thread is told: which rows it looks after, or a question about them. */
export type BlockMessage =
  | { readonly kind: "load"; readonly data: BlockData }
  | {
      readonly kind: "ask";
      readonly name: BlockQuestion;
      readonly parameters: Parameters<TreeBlock[BlockQuestion]>;
    };
/** What a thread answers: that it is ready, or what came of the question. */
export type BlockAnswer =
  | { readonly kind: "ready" }
  | { readonly kind: "answer"; readonly value: unknown }
  | { readonly kind: "failed"; readonly message: string };

const port = parentPort;
let block: TreeBlock | undefined;
const say = (answer: BlockAnswer): void => port?.postMessage(answer);

port?.on("message", (message: BlockMessage) => {
  if (message.kind === "load") {
    block = new TreeBlock(message.data);
    return;
  }
  try {
    if (!block) throw new Error("load comes first");
    say({ kind: "answer", value: askBlock(block, message.name, message.parameters) });
  } catch (error) {
    say({ kind: "failed", message: error instanceof Error ? error.message : String(error) });
  }
});

say({ kind: "ready" });
