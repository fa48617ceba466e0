import { keptCurve } from "@/core/evaluate/kept-curve";
import type { PipelineFile } from "@/core/pipeline/schema";
import { nameInput } from "@/server/answer/inputs";
import { appContext } from "@/server/context";
import { learnedParts } from "@/server/learned";
import { pageOf } from "@/server/stages";
import { modelById } from "@/store/models";
import { TrainButton } from "@/ui/basic/actions";
import { Empty } from "@/ui/basic/empty";
import type { Side } from "@/ui/compare/side";
import { SideBySide } from "@/ui/compare/side-by-side";
import { TrialTable } from "@/ui/compare/trial-table";
import { parseFile } from "@/runs/parse-file";

interface Props {
  readonly params: Promise<{ name: string }>;
  readonly searchParams: Promise<{ pick?: string }>;
}

export default async function ComparePage({ params, searchParams }: Props) {
  const { pipeline, models, versions, checked } = await pageOf((await params).name);
  const { store } = await appContext();
  if (models.length === 0)
    return (
      <div className="page py-8">
        <Empty title="No trials to compare yet.">
          <span className="mb-3 block">Each training run is stored as a trial.</span>
          <TrainButton pipeline={pipeline.name} />
        </Empty>
      </div>
    );
  const fileVersions = Object.fromEntries(versions.map((version) => [version.id, version.number]));
  const kind = checked.ok ? checked.value.file.roles.target.kind : "binary";
  const picked = (nameInput.safeParse((await searchParams).pick).data ?? "")
    .split(",")
    .map(Number)
    .filter((id) => models.some((model) => model.id === id))
    .slice(0, 2);
  const pair = picked.length === 2 ? await Promise.all(picked.map((id) => modelById(store.db, id))) : [];
  const files = new Map<number, PipelineFile>();
  for (const id of new Set(pair.flatMap((model) => (model ? [model.pipelineVersionId] : [])))) {
    const parsed = await parseFile(versions.find((version) => version.id === id)?.text ?? "");
    if (parsed.ok) files.set(id, parsed.value.file);
  }
  const sides = pair.flatMap((model): (Side & { classes: readonly string[] })[] =>
    model
      ? [
          {
            id: model.id,
            number: model.number,
            candidate: model.candidate,
            file: fileVersions[model.pipelineVersionId] ?? 0,
            settings: { algorithm: model.data.algorithm ?? "logistic_regression", ...model.data.settings },
            without: model.data.without ?? [],
            curve: keptCurve(model),
            importance: model.judgement?.importance ?? [],
            learned: learnedParts(model, files.get(model.pipelineVersionId)),
            classes: model.shape.classes ?? [],
          },
        ]
      : [],
  );
  return (
    <div className="page py-6">
      <TrialTable
        models={models}
        kind={kind}
        inService={pipeline.inService}
        fileVersions={fileVersions}
        compared={picked}
      />
      {sides[0] && sides[1] && (
        <SideBySide
          pipeline={pipeline.name}
          task={kind === "classes" ? { kind, classes: sides[0].classes } : { kind }}
          first={sides[0]}
          second={sides[1]}
        />
      )}
    </div>
  );
}
