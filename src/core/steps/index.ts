import { aggregateStep } from "./aggregate";
import { dropStep, keepStep, renameStep } from "./columns";
import { deriveStep } from "./derive";
import { encodeStep } from "./encode";
import { fillStep } from "./fill";
import { filterStep } from "./filter";
import { joinStep } from "./join";
import { scaleStep } from "./scale";
import type { StepKind } from "./step";

/** Every step kind there is. A new kind is one module and one line here. */
export const STEP_KINDS: readonly StepKind[] = [
  keepStep, dropStep, renameStep, filterStep, deriveStep, joinStep, aggregateStep, fillStep, scaleStep, encodeStep,
];

const BY_NAME: ReadonlyMap<string, StepKind> = new Map(STEP_KINDS.map((each) => [each.kind, each]));

export const stepKind = (kind: string): StepKind | undefined => BY_NAME.get(kind);
