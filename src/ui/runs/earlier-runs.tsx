import { PageLink } from "../basic/page-link";

/** Says that a list of runs has only the newest, and where the others are. */
export function EarlierRuns({ shown, few }: { readonly shown: number; readonly few: number }) {
  if (shown < few) return null;
  return (
    <p className="mt-1 text-caption text-faded">
      The latest {few}; earlier ones are under <PageLink href="/runs">Runs</PageLink>.
    </p>
  );
}
