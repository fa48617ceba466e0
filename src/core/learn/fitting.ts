import type { CategoryLevels } from "../plan/frame";
import type { Problem } from "../problem";
import type { OnPass } from "./watch";

/** What every learner is told besides its settings. */
export interface FitOptions {
  /** Categories of the frame, in the order of the frame's codes. */
  readonly categories: readonly CategoryLevels[];
  /** Number columns that are the terms of a text: sets of columns that belong together. */
  readonly texts?: readonly (readonly string[])[] | undefined;
  readonly onPass?: OnPass | undefined;
  /** Called now and then during long computations, so that whoever waits can do other things, or stop it by throwing. */
  readonly breathe?: (() => Promise<void>) | undefined;
}

/** A fitted model, and what a person should know about it. */
export interface Fitted<Model> {
  readonly model: Model;
  readonly warnings: readonly Problem[];
}
