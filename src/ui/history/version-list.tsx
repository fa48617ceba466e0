"use client";
import { parseAsInteger, useQueryState } from "nuqs";
import { toast } from "sonner";
import { changePart } from "@/core/pipeline/edit/parts";
import { savePipeline } from "@/server/actions";
import { moment } from "../basic/format";
import { DiffView } from "../editor/diff-view";
import { useAction } from "../basic/use-action";
import { tellProblems } from "../basic/tell-problems";
import { usePageRefresh } from "../basic/page-refresh";
import { Sheet } from "../basic/sheet";
import { askToConfirm } from "../basic/confirm";

export interface SeenVersion {
  readonly number: number;
  readonly text: string;
  readonly note: string | null;
  readonly createdAt: string;
  /** Model versions trained from it. */
  readonly trained: readonly number[];
}

/** All versions of a file: two of them side by side, and back to each of them. */
export function VersionList({
  pipeline,
  versions,
}: {
  readonly pipeline: string;
  readonly versions: readonly SeenVersion[];
}) {
  const refresh = usePageRefresh();
  const newest = versions[0]!;
  const [left, setLeft] = useQueryState(
    "from",
    parseAsInteger.withDefault(versions[1]?.number ?? newest.number),
  );
  const [right, setRight] = useQueryState("to", parseAsInteger.withDefault(newest.number));
  const [busy, ask] = useAction();
  const find = (number: number): SeenVersion | undefined =>
    versions.find((version) => version.number === number);
  const [before, after] = [find(left), find(right)];
  const back = async (version: SeenVersion): Promise<void> => {
    const question = `Create version ${newest.number + 1} with the text of version ${version.number}? The versions in between are kept.`;
    if (!(await askToConfirm(question, "Create version"))) return;
    // An older file may have the name from before.
    const named = changePart(version.text, ["name"], pipeline);
    if (!named.ok) return tellProblems(named.problems);
    const outcome = await ask(() =>
      savePipeline({
        text: named.value,
        note: `back to version ${version.number}`,
        basedOn: newest.number,
        expectedName: pipeline,
      }),
    );
    if (!outcome.ok) {
      tellProblems(outcome.problems);
      return;
    }
    toast.success(`Version ${outcome.value.version} has the text of version ${version.number}.`);
    await Promise.all([setLeft(null), setRight(null)]);
    refresh();
  };
  return (
    <div className="grid grid-cols-[380px_1fr] gap-8">
      <section aria-label="Versions">
        <Sheet>
          <thead>
            <tr>
              <th>From</th>
              <th>To</th>
              <th>Version</th>
            </tr>
          </thead>
          <tbody>
            {versions.map((version) => (
              <tr key={version.number}>
                <td>
                  <input
                    type="radio"
                    name="from"
                    aria-label={`Compare from version ${version.number}`}
                    className="accent-(--madder)"
                    checked={left === version.number}
                    onChange={() => void setLeft(version.number)}
                  />
                </td>
                <td>
                  <input
                    type="radio"
                    name="to"
                    aria-label={`Compare to version ${version.number}`}
                    className="accent-(--moss)"
                    checked={right === version.number}
                    onChange={() => void setRight(version.number)}
                  />
                </td>
                <td>
                  <span className="font-semibold">version {version.number}</span>{" "}
                  <span className="real-time text-faded">{moment(version.createdAt)}</span>
                  {version.note && <span className="block">{version.note}</span>}
                  {version.trained.length > 0 && (
                    <span className="block text-caption text-faded">
                      model version{version.trained.length > 1 ? "s" : ""} {version.trained.join(", ")}
                    </span>
                  )}
                  <a
                    className="mr-3 text-caption"
                    href={`/api/pipelines/${encodeURIComponent(pipeline)}/file?version=${version.number}`}
                  >
                    Download
                  </a>
                  {version.number !== newest.number && (
                    <button
                      type="button"
                      className="press press-quiet px-0 py-0 text-caption underline"
                      disabled={busy}
                      onClick={() => void back(version)}
                    >
                      Revert to it
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </Sheet>
      </section>
      <section aria-label="Difference" className="min-w-0" data-testid="difference">
        <h2 className="mb-1">
          {left === right ? `Version ${right}` : `From version ${left} to version ${right}`}
        </h2>
        <div className="max-h-[calc(100vh-230px)] overflow-auto bg-paper">
          {before &&
            after &&
            (left === right ? (
              <pre className="px-3 py-2 text-caption">{after.text}</pre>
            ) : (
              <DiffView before={before.text} after={after.text} />
            ))}
        </div>
      </section>
    </div>
  );
}
