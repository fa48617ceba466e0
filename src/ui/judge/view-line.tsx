import { PageLink } from "../basic/page-link";

const VIEWS = [
  ["figures", "Metrics"],
  ["errors", "Errors"],
  ["segments", "Segments"],
  ["rows", "Rows"],
  ["understand", "Explanation"],
  ["try", "Try a row"],
  ["record", "Record"],
] as const;

/** Whether there is a view of that name. */
export const isView = (name: string): boolean => VIEWS.some(([known]) => known === name);

/** The views of a version, in the order of the questions: how good, where not, for whom not, which rows, why, how made. */
export function ViewLine({
  model,
  view,
  kind,
}: {
  readonly model: number;
  readonly view: string;
  readonly kind: string;
}) {
  return (
    <nav aria-label="Version views" className="mb-5 flex gap-6 border-b border-rule">
      {VIEWS.filter(([name]) => name !== "errors" || kind === "number").map(([name, title]) => (
        <PageLink
          key={name}
          href={`/models/${model}?view=${name}`}
          aria-current={view === name ? "page" : undefined}
          className={`-mb-px border-b-2 pb-1.5 no-underline ${view === name ? "border-madder font-semibold" : "border-transparent text-faded hover:text-ink"}`}
        >
          {title}
        </PageLink>
      ))}
    </nav>
  );
}
