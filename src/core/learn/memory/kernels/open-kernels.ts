import { TREE_KERNELS } from "./tree-kernels";

type Numbers<Count extends number, Found extends readonly number[] = []> = Found["length"] extends Count
  ? Found
  : Numbers<Count, readonly [...Found, number]>;

/** The kernels, as documented in kernels/tree-kernels.ts. All parameters are numbers; addresses are bytes within the memory. */
export interface TreeKernels {
  readonly memory: WebAssembly.Memory;
  readonly addFours: (...parameters: Numbers<7>) => number;
  readonly addNarrow: (...parameters: Numbers<8>) => void;
  readonly addWide: (...parameters: Numbers<8>) => void;
  readonly addClassesNarrow: (...parameters: Numbers<9>) => void;
  readonly addClassesWide: (...parameters: Numbers<9>) => void;
  readonly partitionNarrow: (...parameters: Numbers<6>) => number;
  readonly partitionWide: (...parameters: Numbers<6>) => number;
  readonly pack: (...parameters: Numbers<11>) => void;
  readonly packClasses: (...parameters: Numbers<10>) => void;
  readonly unpack: (...parameters: Numbers<6>) => void;
  readonly unpackClasses: (...parameters: Numbers<5>) => void;
  readonly addValue: (...parameters: Numbers<5>) => void;
  readonly logistic: (...parameters: Numbers<8>) => void;
}

let compiled: WebAssembly.Module | undefined;
const PAGE = 65536;

/** A new instance with a memory of its own. */
export function openKernels(): TreeKernels {
  compiled ??= new WebAssembly.Module(
    Uint8Array.from(atob(TREE_KERNELS), (character) => character.charCodeAt(0)),
  );
  return new WebAssembly.Instance(compiled).exports as unknown as TreeKernels;
}

/** Hands out stretches of a kernel's memory, one after the other; each begins at a multiple of 16 bytes. */
export class Stretches {
  private used = 1024;

  constructor(private readonly memory: WebAssembly.Memory) {}

  /** @throws RangeError when the memory cannot grow so far */
  take(bytes: number): number {
    const at = this.used;
    this.used += Math.ceil(bytes / 16) * 16;
    const missing = this.used - this.memory.buffer.byteLength;
    if (missing > 0) this.memory.grow(Math.ceil(missing / PAGE));
    return at;
  }
}
