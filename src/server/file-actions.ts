"use server";
import { z } from "zod";
import { standardCandidates } from "@/core/pipeline/defaults";
import { changePart, valueIn } from "@/core/pipeline/edit/parts";
import { namesToWrite } from "@/core/pipeline/edit/name-steps";
import { mendObstacle } from "@/core/pipeline/edit/mend";
import { problem, ProblemError, success, type Result } from "@/core/problem";
import { draftOf } from "@/store/drafts";
import { findPipeline, newestVersion } from "@/store/pipelines";
import { savePipeline } from "./actions";
import { action, refuse, type Outcome } from "./answer/action";
import { nameInput, remarkInput } from "./answer/inputs";
import { appContext } from "./context";

type Saved = Outcome<{ version: number }>;
type Change = readonly [path: readonly [string, ...(string | number)[]], value: unknown];

/** Changes parts of the newest version's file and saves it as the next version. Refused while a draft lies unsaved. */
const changeFile = (
  name: string,
  note: string,
  changes: (text: string) => readonly Change[],
): Promise<Saved> =>
  editFile(name, note, (text) => {
    let now = text;
    for (const [path, value] of changes(text)) {
      const changed = changePart(now, path, value);
      if (!changed.ok) return changed;
      now = changed.value;
    }
    return success(now);
  });

/** Edits the text of the newest version and saves it as the next version. Refused while a draft lies unsaved. */
async function editFile(name: string, note: string, edit: (text: string) => Result<string>): Promise<Saved> {
  const { store } = await appContext();
  const pipeline = await findPipeline(store.db, name);
  const version = pipeline && (await newestVersion(store.db, pipeline.id));
  if (!pipeline || !version) return refuse(problem("unknown_pipeline", "Pipeline not found."));
  const draft = await draftOf(store.db, pipeline.id);
  if (draft && draft.text !== version.text)
    return refuse(
      problem(
        "draft_open",
        "The file has unsaved changes.",
        "Save them in the Braid, or go back to the newest version there; then change this.",
      ),
    );
  const edited = edit(version.text);
  if (!edited.ok) return edited;
  const saved = await savePipeline({ text: edited.value, note, basedOn: version.number, expectedName: name });
  return saved.ok ? success({ version: saved.value.version }) : saved;
}

const listNames = { candidates: "candidate", delivery: "delivery", schedules: "schedule" } as const;
const listInput = z.enum(["candidates", "delivery", "schedules"]);
const placeInput = z.int().min(0).max(10_000);
/** Values of the file, whatever they are: its own schema reads them when it is saved. */
const partInput = z.record(nameInput, z.unknown());

/** What has to be written into a file before an entry of one of its lists can be changed: candidates that it left out. */
const listChanges = (text: string, list: string): readonly Change[] =>
  list === "candidates" && valueIn(text, [list]) === undefined ? [[[list], standardCandidates()]] : [];

/** Names of the steps that a candidate searches the settings of. */
function searchedSteps({ search }: Readonly<Record<string, unknown>>): readonly string[] {
  const tried = z.object({ try: z.array(z.object({ step: z.string().optional() })) }).safeParse(search);
  return tried.success ? tried.data.try.flatMap(({ step }) => step ?? []) : [];
}

/** Adds an entry to one of the file's lists, or puts it in the place of one. */
export const saveListed = action(
  [z.object({ pipeline: nameInput, part: listInput, place: placeInput.nullable(), entry: partInput })],
  ({ pipeline, part, place, entry }) =>
    changeFile(
      pipeline,
      `${listNames[part]} ${place === null ? "added" : "changed"}: ${String(entry["name"] ?? "").slice(0, 100)}`,
      (text) => {
        const first = listChanges(text, part);
        const there = first[0]?.[1] ?? valueIn(text, [part]);
        const names = namesToWrite(text, searchedSteps(entry));
        return [...first, ...names, [[part, place ?? (Array.isArray(there) ? there.length : 0)], entry]];
      },
    ),
);

/** Takes an entry out of one of the file's lists. What runs have made of it stays. */
export const removeListed = action([nameInput, listInput, placeInput], (pipeline, list, place) =>
  changeFile(pipeline, `${listNames[list]} removed`, (text) => [
    ...listChanges(text, list),
    [[list, place], undefined],
  ]),
);

const roleInput = nameInput.nullable();
const answerInput = z.union([remarkInput(1000), z.number(), z.boolean()]);
/** Values on one side of yes and no. */
const sideInput = z.union([answerInput, z.array(answerInput).min(1).max(1000)]).optional();
/** The roles of columns, as the form has them; null where a role has no column. */
const rolesInput = z.object({
  key: z.array(nameInput).min(1).max(100),
  target: z.object({
    column: nameInput,
    kind: z.enum(["binary", "number", "classes"]),
    positive: sideInput,
    negative: sideInput,
  }),
  time: roleInput,
  group: roleInput,
  weight: roleInput,
});

/** Says which columns are key, answer, time, group and weight; what else the file says of columns stays. */
export const saveRoles = action([nameInput, rolesInput], (pipeline, roles) =>
  changeFile(pipeline, "roles of columns", () =>
    Object.entries(roles).map(([role, value]): Change => [["roles", role], value ?? undefined]),
  ),
);

const columnsInput = z.array(nameInput).max(2000).readonly();
const mendInput = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("fill"), medians: columnsInput, frequent: columnsInput }),
  z.object({ kind: z.literal("leave_out"), columns: columnsInput, because: remarkInput(200) }),
]);

/** Takes away what stands in the way of a training: one step that fills all gaps, or all columns left out. */
export const mendBeforeTraining = action([nameInput, mendInput], (pipeline, mend) =>
  editFile(pipeline, mend.kind === "fill" ? "missing values filled" : "columns excluded", (text) =>
    mendObstacle(text, mend),
  ),
);

/** Sets the threshold from which on a delivery predicts yes. */
export const keepThreshold = action(
  [nameInput, nameInput, z.number().min(0).max(1)],
  (pipeline, delivery, threshold) =>
    changeFile(pipeline, `threshold of ${delivery}`, (text) => {
      const deliveries = valueIn(text, ["delivery"]);
      const place = Array.isArray(deliveries)
        ? deliveries.findIndex((entry: unknown) => valueNamed(entry) === delivery)
        : -1;
      if (place < 0)
        throw new ProblemError(
          problem(
            "unknown_delivery",
            `There is no delivery "${delivery}" in the newest file version.`,
            "Reload the page to see existing deliveries.",
          ),
        );
      return [[["delivery", place, "threshold"], threshold]];
    }),
);

/** The name of an entry of one of the file's lists. */
const valueNamed = (entry: unknown): unknown =>
  typeof entry === "object" && entry !== null && "name" in entry ? entry.name : undefined;

const optionalPart = partInput.nullable().optional();

/** Puts whole parts of the file in the place of what is there; null takes one out. */
export const saveParts = action(
  [
    z.object({
      pipeline: nameInput,
      note: remarkInput(200),
      parts: z.object({
        holdout: optionalPart,
        folds: optionalPart,
        retraining: optionalPart,
        functions: optionalPart,
      }),
    }),
  ],
  ({ pipeline, note, parts }) =>
    changeFile(pipeline, note, () =>
      Object.entries(parts).map(([part, value]): Change => [[part], value ?? undefined]),
    ),
);
