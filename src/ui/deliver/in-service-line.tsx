import { PageLink } from "../basic/page-link";

/** Which version scores; without one, where to choose or train it. */
export function InServiceLine({
  pipeline,
  inService,
  hasModels,
}: {
  readonly pipeline: string;
  readonly inService: { readonly id: number; readonly number: number } | undefined;
  readonly hasModels: boolean;
}) {
  const path = `/pipelines/${encodeURIComponent(pipeline)}`;
  return (
    <p className="mb-5">
      {inService ? (
        <>
          In service: <PageLink href={`/models/${inService.id}`}>version {inService.number}</PageLink>.
          Scoring uses it and the file version it was trained from.
        </>
      ) : (
        <span className="text-madder">
          No version is in service, so scoring is not possible.{" "}
          <PageLink href={`${path}/${hasModels ? "compare" : "train"}`}>
            {hasModels ? "Choose a version" : "Train a model"}
          </PageLink>
        </span>
      )}
    </p>
  );
}
