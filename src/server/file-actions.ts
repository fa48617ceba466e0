"use server";
import { z } from "zod";
import { changePart, valueIn } from "@/core/pipeline/edit/parts";
import { problem } from "@/core/problem";
import { draftOf } from "@/store/drafts";
import { findPipeline, newestVersion } from "@/store/pipelines";
import { savePipeline } from "./actions";
import { attempt, type Outcome } from "./attempt";
import { appContext } from "./context";

type Saved = Outcome<{ version: number }>;
type Change = readonly [path: readonly [string, ...(string | number)[]], value: unknown];

/** Changes parts of the newest version's file and saves it as the next version. Refused while a draft lies unsaved. */
async function changeFile(
  name: string,
  note: string,
  changes: (text: string) => readonly Change[],
): Promise<Saved> {
  return attempt(async () => {
    const { store } = await appContext();
    const pipeline = await findPipeline(store.db, name);
    const version = pipeline && (await newestVersion(store.db, pipeline.id));
    if (!pipeline || !version)
      return { ok: false, problems: [problem("unknown_pipeline", "There is no such pipeline.")] };
    const draft = await draftOf(store.db, pipeline.id);
    if (draft && draft.text !== version.text)
      return {
        ok: false,
        problems: [
          problem(
            "draft_open",
            "The file has unsaved changes.",
            "Save them in the Braid, or go back to the newest version there; then change this.",
          ),
        ],
      };
    let { text } = version;
    for (const [path, value] of changes(text)) {
      const changed = changePart(text, path, value);
      if (!changed.ok) return changed;
      text = changed.value;
    }
    const saved = await savePipeline({ text, note, basedOn: version.number, expectedName: name });
    return saved.ok ? { ok: true, value: { version: saved.value.version } } : saved;
  });
}

const listNames = { candidates: "candidate", delivery: "delivery", schedules: "schedule" } as const;
const listPart = z.enum(["candidates", "delivery", "schedules"]);
const place = z.number().int().min(0);
const listedInput = z.object({
  pipeline: z.string(),
  part: listPart,
  place: place.nullable(),
  entry: z.record(z.string(), z.unknown()),
});

/** Adds an entry to one of the file's lists, or puts it in the place of one. */
export async function saveListed(input: z.infer<typeof listedInput>): Promise<Saved> {
  const given = listedInput.safeParse(input);
  if (!given.success) return { ok: false, problems: [problem("bad_entry", "This is no entry of the file.")] };
  const { pipeline, part, place: where, entry } = given.data;
  return changeFile(
    pipeline,
    `${listNames[part]} ${where === null ? "added" : "changed"}: ${String(entry["name"] ?? "")}`,
    (text) => {
      const there = valueIn(text, [part]);
      return [[[part, where ?? (Array.isArray(there) ? there.length : 0)], entry]];
    },
  );
}

/** Takes an entry out of one of the file's lists. What runs have made of it stays. */
export async function removeListed(
  pipeline: string,
  part: keyof typeof listNames,
  where: number,
): Promise<Saved> {
  const list = listPart.parse(part);
  return changeFile(z.string().parse(pipeline), `${listNames[list]} removed`, () => [
    [[list, place.parse(where)], undefined],
  ]);
}

const optional = z.record(z.string(), z.unknown()).nullable().optional();
const partsInput = z.object({
  pipeline: z.string(),
  note: z.string().max(200),
  parts: z.object({ holdout: optional, folds: optional, retraining: optional, functions: optional }),
});

/** Puts whole parts of the file in the place of what is there; null takes one out. */
export async function saveParts(input: z.infer<typeof partsInput>): Promise<Saved> {
  const given = partsInput.safeParse(input);
  if (!given.success)
    return { ok: false, problems: [problem("bad_entry", "These are no parts of the file.")] };
  const { pipeline, note, parts } = given.data;
  return changeFile(pipeline, note, () =>
    Object.entries(parts).map(([part, value]): Change => [[part], value ?? undefined]),
  );
}
