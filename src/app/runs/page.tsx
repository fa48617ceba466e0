import type { Metadata } from "next";
import { formatNumber } from "@/core/format/numbers";
import { appContext } from "@/server/context";
import { countText } from "@/server/answer/inputs";
import { listEveryPipeline } from "@/store/pipeline-lives";
import { listRuns } from "@/store/runs";
import { Empty } from "@/ui/basic/empty";
import { PageTitle } from "@/ui/basic/page-title";
import { RunTable } from "@/ui/runs/run-table";
import { PageLink } from "@/ui/basic/page-link";

export const metadata: Metadata = { title: "Runs" };
/** Runs that are shown at first, and further ones at a time; and the most that one page lists. */
const [SHOWN, MOST] = [100, 1000];

interface Props {
  readonly searchParams: Promise<{ readonly newest?: string }>;
}

export default async function RunsPage({ searchParams }: Props) {
  const { store } = await appContext();
  const wanted = countText(MOST).safeParse((await searchParams).newest);
  const most = Math.max(SHOWN, wanted.data ?? SHOWN);
  const [runs, pipelines] = await Promise.all([
    listRuns(store.db, { limit: most }),
    listEveryPipeline(store.db),
  ]);
  return (
    <div className="mx-auto max-w-6xl px-5 pb-16">
      <PageTitle title="Runs">
        {runs.length === most ? `The newest ${formatNumber(most)}.` : "All of them, newest first."}
      </PageTitle>
      {runs.length === 0 ? (
        <Empty title="Nothing has run yet.">Train a pipeline to begin.</Empty>
      ) : (
        <RunTable runs={runs} names={new Map(pipelines.map((each) => [each.id, each.name]))} />
      )}
      {runs.length === most && most < MOST && (
        <p className="mt-2">
          <PageLink href={`/runs?newest=${most + SHOWN}`}>Show {SHOWN} more</PageLink>
        </p>
      )}
      {most === MOST && runs.length === MOST && (
        <p className="mt-2 text-sm text-faded">
          Earlier ones: <code>./ravlen runs --limit NUMBER</code>
        </p>
      )}
    </div>
  );
}
