import { PageLink } from "../basic/page-link";

/** A pipeline by name, with the way to what it delivers. */
export function DeliverLink({ pipeline }: { readonly pipeline: string }) {
  return <PageLink href={`/pipelines/${encodeURIComponent(pipeline)}/deliver`}>{pipeline}</PageLink>;
}
