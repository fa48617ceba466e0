import type { ColumnData } from "./column-data";
import { CHUNK } from "./losses";
import type { BlockData } from "./block-layout";
import { TreeBlock } from "./tree-block";

/** What a block can be asked. */
export type BlockQuestion = {
  [Name in keyof TreeBlock]: TreeBlock[Name] extends (...parameters: never) => unknown ? Name : never;
}[keyof TreeBlock];

/** Blocks of rows that answer as one: in this thread, or in several. */
export interface TreeBlocks {
  readonly count: number;
  /** Gives the blocks the rows they answer for. Rows they hold already are not sent again. */
  readonly load: (data: ColumnData) => void;
  /**
   * Asks every block the same.
   * @param parameters of each block's question
   * @returns the answers in the order of the rows
   */
  readonly ask: <Name extends BlockQuestion>(
    name: Name,
    parameters: (block: number) => Parameters<TreeBlock[Name]>,
  ) => Promise<readonly ReturnType<TreeBlock[Name]>[]>;
}

/** Divides rows into blocks of whole chunks. */
export function blockData(data: ColumnData, count: number): readonly BlockData[] {
  const chunks = Math.ceil(data.rows / CHUNK);
  return Array.from({ length: count }, (_, block) => {
    const from = Math.min(data.rows, Math.floor((chunks * block) / count) * CHUNK);
    const to = Math.min(data.rows, Math.floor((chunks * (block + 1)) / count) * CHUNK);
    return {
      rows: to - from,
      numbers: data.numbers.map((number) => number.values.subarray(from, to)),
      categories: data.categories.map((category) => ({
        codes: category.codes.subarray(from, to),
        levels: category.levels.length,
      })),
      target: data.target.subarray(from, to),
      weight: data.weight?.subarray(from, to),
      draw: data.draw.subarray(from, to),
    };
  });
}

/** One block, or several after one another, in this thread. */
export class LocalBlocks implements TreeBlocks {
  private blocks: readonly TreeBlock[] = [];
  private held: ColumnData | undefined;

  constructor(readonly count = 1) {}

  load(data: ColumnData): void {
    if (this.held === data) return;
    this.held = data;
    this.blocks = blockData(data, this.count).map((data) => new TreeBlock(data));
  }

  ask<Name extends BlockQuestion>(
    name: Name,
    parameters: (block: number) => Parameters<TreeBlock[Name]>,
  ): Promise<readonly ReturnType<TreeBlock[Name]>[]> {
    return Promise.resolve(this.blocks.map((block, index) => askBlock(block, name, parameters(index))));
  }
}

/** Asks one block. */
export function askBlock<Name extends BlockQuestion>(
  block: TreeBlock,
  name: Name,
  parameters: Parameters<TreeBlock[Name]>,
): ReturnType<TreeBlock[Name]> {
  const method = block[name] as (...given: Parameters<TreeBlock[Name]>) => ReturnType<TreeBlock[Name]>;
  return method.apply(block, parameters);
}
