import { z } from "zod";
import { ProblemError } from "@/core/problem";
import { stepSource } from "@/runs/export/sources";
import { previewTime } from "@/runs/draft/preview";
import { blockersOf, openDraft } from "@/runs/draft/survey";
import { countText, fileInput, nameInput } from "@/server/answer/inputs";
import { route, unknown } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { downloadRows, DOWNLOADS } from "@/server/download";

const formInput = z.object({
  text: fileInput,
  strand: nameInput,
  after: countText(10_000),
  format: z.enum(DOWNLOADS),
});

/** The rows after a step of a draft as a file. The body is a form, so that the browser itself keeps the file as it comes. */
export const POST = route({ body: formInput }, async ({ body: { text, strand, after, format } }) => {
  const { warehouse, now } = await appContext();
  const { plan, survey } = await openDraft(text, warehouse);
  const found = plan?.strands.find((oneStrand) => oneStrand.name === strand);
  if (!plan || !found || after > found.steps.length)
    throw unknown("unknown_step", "Step not found in this draft.");
  const blockers = blockersOf(plan, survey.problems, strand, after);
  if (blockers.length > 0) throw new ProblemError(...blockers);
  return downloadRows(
    warehouse,
    await stepSource(plan, warehouse, strand, after, previewTime(await now())),
    format,
    `${plan.file.name}-${strand}-${after}`,
  );
});
