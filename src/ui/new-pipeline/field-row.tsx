import { OctagonAlert, TriangleAlert } from "lucide-react";
import type { ReactNode } from "react";
import type { Finding } from "./findings";

/** What is missing or wrong at a field. */
export function FieldTrouble({ id, found }: { readonly id: string; readonly found: Finding | undefined }) {
  const Icon = found?.stops === false ? TriangleAlert : OctagonAlert;
  return (
    <p
      id={id}
      role="status"
      className={`text-caption ${found?.stops === false ? "text-ink" : "text-madder"}`}
    >
      {found && (
        <span className="mt-1 flex max-w-xl gap-1.5">
          <Icon
            size={14}
            aria-hidden
            className={`mt-0.5 shrink-0 ${found.stops ? "text-madder" : "text-weld"}`}
          />
          {found.words}
        </span>
      )}
    </p>
  );
}

/** A field of a form with its name, a hint, and what is missing or wrong at it. */
export function FieldRow({
  name,
  hint,
  finding,
  children,
}: {
  readonly name: string;
  readonly hint?: string;
  readonly finding: Finding | undefined;
  /** @param trouble id of the element that says what is wrong, for `aria-describedby` */
  readonly children: (trouble: string) => ReactNode;
}) {
  const trouble = `trouble-${name.replaceAll(" ", "-")}`;
  return (
    <div className="grid grid-cols-[150px_minmax(0,1fr)] items-start gap-4">
      <div className="pt-1">
        <span aria-hidden>{name}</span>
        {hint !== undefined && <span className="block text-caption leading-snug text-faded">{hint}</span>}
      </div>
      <div>
        {children(trouble)}
        <FieldTrouble id={trouble} found={finding} />
      </div>
    </div>
  );
}
