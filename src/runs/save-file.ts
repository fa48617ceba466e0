import { failure, problem, success, type Result } from "@/core/problem";
import { findPipeline, saveVersion, type SavedVersion } from "@/store/pipelines";
import { checkText } from "./check-file";
import type { Context } from "./context";
import { problemsOf } from "./failure";
import { followFile } from "./service";
import { whyTaken } from "./pipelines/taken";
import { parseFile } from "./parse-file";

/** The version that a pipeline is based on which is not there yet. */
export const NONE_YET = 0;

export interface SaveOptions {
  readonly note?: string | undefined;
  /** The version that the text was made from, or {@link NONE_YET}; another newest one is a problem. */
  readonly basedOn?: number | undefined;
  /** The pipeline that is being edited, which the file may not leave. */
  readonly expectedName?: string | undefined;
}

/**
 * Saves a pipeline file as a new version, if it is good and nobody else saved in the meantime; the functions of the version in
 * service follow it. Problems: those of the file, renamed, name_taken, saved_meanwhile, functions_behind.
 */
export async function saveFile(
  context: Context,
  text: string,
  { note, basedOn, expectedName }: SaveOptions = {},
): Promise<Result<SavedVersion>> {
  const { store, warehouse } = context;
  const checked = await checkText(text, warehouse);
  if (!checked.ok) return checked;
  const parsed = await parseFile(text);
  if (!parsed.ok) return parsed;
  const { file } = parsed.value;
  if (expectedName !== undefined && file.name !== expectedName) {
    return failure(
      problem(
        "renamed",
        `This file is named "${file.name}", but you are editing "${expectedName}".`,
        "Keep the name, or create a new pipeline from the list of pipelines.",
        { line: 1 },
      ),
    );
  }
  const fresh = basedOn === NONE_YET || !(await findPipeline(store.db, file.name));
  const barred = fresh ? await whyTaken(store.db, file.name) : undefined;
  if (barred) return failure(barred);
  const saved = await saveVersion(
    store.db,
    file,
    text,
    checked.value.hash,
    await context.now(),
    note || undefined,
    basedOn,
  );
  if ("conflict" in saved)
    return failure(
      problem(
        "saved_meanwhile",
        `Version ${saved.conflict} was saved by another user in the meantime.`,
        "Copy your text, open the newest version and make your change there.",
      ),
    );
  try {
    if (saved.fresh) await followFile(context, saved.pipeline.id);
  } catch (error) {
    return failure(
      problem(
        "functions_behind",
        `The file is saved as version ${saved.version.number}, but the functions in the warehouse stay as they were: ${problemsOf(error)[0]?.message ?? "they could not be created."}`,
        "Fix that. They are retried every minute, and Health shows a warning until they match.",
      ),
    );
  }
  return success(saved);
}
