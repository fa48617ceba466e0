import Link from "next/link";
import { pageOf } from "@/server/stages";
import { Empty } from "@/ui/basic/empty";
import { METRIC_NAMES } from "@/ui/basic/format";
import { Problems } from "@/ui/basic/problems";

export default async function BriefPage({ params }: { readonly params: Promise<{ name: string }> }) {
  const { pipeline, checked } = await pageOf((await params).name);
  const edit = `/pipelines/${encodeURIComponent(pipeline.name)}/braid?file=true`;
  if (!checked.ok) return <div className="mx-auto max-w-3xl px-5 py-8"><h2 className="mb-3">The file has errors. <Link href={edit}>Mend it</Link></h2><Problems problems={checked.problems} /></div>;
  const { brief, roles } = checked.value.file;
  if (!brief) return <div className="mx-auto max-w-3xl px-5 py-8"><Empty title="No brief has been written.">Say under <code>brief</code> in <Link href={edit}>the file</Link> what shall be predicted, for whom, and what you expect. It is worth more before training than after.</Empty></div>;
  const { success } = brief;
  return (
    <article className="mx-auto max-w-3xl px-5 py-8 font-serif text-[1.12rem] leading-relaxed">
      <h2 className="font-serif text-2xl font-medium leading-snug">{brief.question ?? "No question written"}</h2>
      {brief.row && <p className="mt-4"><span className="text-faded">One row is: </span>{brief.row}</p>}
      {brief.moment && <p className="mt-2"><span className="text-faded">Predicted: </span>{brief.moment.when}{brief.moment.column && <> (<code>{brief.moment.column}</code>)</>}</p>}
      {brief.users && <p className="mt-2"><span className="text-faded">For: </span>{brief.users}</p>}
      {success && <p className="mt-2"><span className="text-faded">A success is: </span>{METRIC_NAMES[success.metric]} on the holdout of {success.at_least !== undefined ? `at least ${success.at_least}` : `at most ${success.at_most}`}</p>}
      {brief.expectations && brief.expectations.length > 0 && <><h3 className="mt-6 font-medium">Expected beforehand</h3><ol className="mt-1 list-decimal pl-6">{brief.expectations.map((each) => <li key={each}>{each}</li>)}</ol></>}
      {roles.exclude.length > 0 && <><h3 className="mt-6 font-medium">Left out of the features</h3><ul className="mt-1 space-y-1">{roles.exclude.map((each) => <li key={each.column}><code className="text-base">{each.column}</code>: {each.because}</li>)}</ul></>}
      <p className="mt-8 font-sans text-sm"><Link href={edit}>Edit in the file</Link></p>
    </article>
  );
}
