import { aggregateStep } from "./aggregate";
import { baselineStep } from "./baseline";
import { binStep } from "./bin";
import { checkStep } from "./check";
import { clipStep } from "./clip";
import { dropStep, keepStep, renameStep } from "./columns";
import { convertStep } from "./convert";
import { cycleStep } from "./cycle";
import { datePartsStep, elapsedStep } from "./date-parts";
import { deduplicateStep } from "./deduplicate";
import { deriveStep } from "./derive";
import { encodeStep } from "./encode";
import { fillStep } from "./fill";
import { filterStep } from "./filter";
import { frequencyStep } from "./frequency";
import { groupRareStep } from "./group-rare";
import { joinStep } from "./join";
import { joinLatestStep } from "./join-latest";
import { labelRegionsStep } from "./label-regions";
import { lagStep } from "./lag";
import { limitStep } from "./limit";
import { mapStep } from "./map";
import { ordinalStep } from "./ordinal";
import { pivotStep, unpivotStep } from "./pivot";
import { rollingStep } from "./rolling";
import { sampleStep } from "./sample";
import { scaleStep } from "./scale";
import { sqlStep } from "./sql";
import { stackStep } from "./stack";
import type { StepKind } from "./step";
import { targetMeanStep } from "./target-mean";
import { textTermsStep } from "./text-terms";
import { extractStep, splitStep } from "./texts";
import { transformStep } from "./transform";

/** Every step kind there is. A new kind is one module and one line here. */
export const STEP_KINDS: readonly StepKind[] = [
  filterStep,
  deduplicateStep,
  sampleStep,
  limitStep,
  stackStep,
  keepStep,
  dropStep,
  renameStep,
  convertStep,
  deriveStep,
  mapStep,
  clipStep,
  datePartsStep,
  elapsedStep,
  extractStep,
  splitStep,
  fillStep,
  scaleStep,
  binStep,
  transformStep,
  cycleStep,
  baselineStep,
  encodeStep,
  ordinalStep,
  frequencyStep,
  targetMeanStep,
  groupRareStep,
  textTermsStep,
  aggregateStep,
  pivotStep,
  unpivotStep,
  lagStep,
  rollingStep,
  joinStep,
  joinLatestStep,
  labelRegionsStep,
  sqlStep,
  checkStep,
];

const BY_NAME: ReadonlyMap<string, StepKind> = new Map(
  STEP_KINDS.map((stepKind) => [stepKind.kind, stepKind]),
);

export const stepKind = (kind: string): StepKind | undefined => BY_NAME.get(kind);
