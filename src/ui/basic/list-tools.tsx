import { formatCount, formatNumber } from "@/core/format/numbers";
import { PageLink } from "./page-link";
import { labelledOptions } from "../select/options";
import { FormSelect } from "../select/form-select";

interface Place {
  /** Address of the list. */
  readonly path: string;
  readonly words: string;
  readonly filter: string | undefined;
  readonly page: number;
}

/** The address of a list as it would be. */
function addressOf({ path, words, filter, page }: Place): string {
  const said = new URLSearchParams({
    ...(words === "" ? {} : { q: words }),
    ...(filter === undefined ? {} : { show: filter }),
    ...(page === 1 ? {} : { page: String(page) }),
  }).toString();
  return said === "" ? path : `${path}?${said}`;
}

/** Looks for words in a list and narrows it; what is looked for stands in the address. */
export function ListSearch({
  place,
  what,
  filters,
}: {
  readonly place: Place;
  /** What is listed, such as "runs". */
  readonly what: string;
  readonly filters: Readonly<Record<string, string>>;
}) {
  return (
    <form action={place.path} role="search" className="mb-3 flex flex-wrap items-center gap-3">
      <input
        type="search"
        name="q"
        aria-label={`Find ${what}`}
        className="field w-72"
        maxLength={200}
        defaultValue={place.words}
      />
      <FormSelect
        key={place.filter ?? ""}
        name="show"
        label={`Which ${what}`}
        first={place.filter ?? ""}
        options={[{ value: "", label: `all ${what}` }, ...labelledOptions(filters)]}
      />
      <button type="submit" className="press">
        Find
      </button>
      {(place.words !== "" || place.filter !== undefined) && (
        <PageLink href={place.path} className="text-caption">
          show all
        </PageLink>
      )}
    </form>
  );
}

/** Which part of a list is shown, and the way to the others. */
export function ListPages({
  place,
  all,
  rows,
  one,
}: {
  readonly place: Place;
  readonly all: number;
  /** Entries on one page. */
  readonly rows: number;
  /** What one entry is called. */
  readonly one: string;
}) {
  const last = Math.max(1, Math.ceil(all / rows));
  const from = rows * (place.page - 1);
  return (
    <nav aria-label="Pages" className="mt-3 flex items-center gap-4 text-caption">
      <span role="status" className="text-faded">
        {all <= rows
          ? formatCount(all, one)
          : `${formatNumber(from + 1)} to ${formatNumber(Math.min(all, from + rows))} of ${formatCount(all, one)}`}
      </span>
      {place.page > 1 && (
        <PageLink href={addressOf({ ...place, page: Math.min(place.page - 1, last) })}>before</PageLink>
      )}
      {place.page < last && <PageLink href={addressOf({ ...place, page: place.page + 1 })}>next</PageLink>}
    </nav>
  );
}
