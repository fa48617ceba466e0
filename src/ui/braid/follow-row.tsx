"use client";
import { X } from "lucide-react";
import { useState } from "react";
import type { FollowedPlace } from "@/runs/draft/follow";
import { readKey, writeKey } from "@/core/pipeline/key-text";
import { valueIn } from "@/core/pipeline/edit/parts";
import { useDesk } from "../draft/draft-context";
import { useAnswer } from "../draft/use-answer";
import { lengthOf, mainGroup } from "./places";

const SIGNS: Readonly<Record<FollowedPlace["state"], string>> = {
  there: "●",
  gone: "✕",
  absent: "–",
  "no key yet": "○",
};
const SIGN_COLOURS: Readonly<Record<FollowedPlace["state"], string>> = {
  there: "text-woad",
  gone: "text-madder",
  absent: "text-faded",
  "no key yet": "text-faded",
};
const WORDS: Readonly<Record<FollowedPlace["state"], string>> = {
  there: "there",
  gone: "dropped here",
  absent: "not found",
  "no key yet": "the key does not exist yet",
};

/** One row, by its key, at every step of the main strand. */
export function FollowRow({
  value,
  onValue,
}: {
  readonly value: string;
  readonly onValue: (value: string | null) => void;
}) {
  const { braid, surveyed } = useDesk();
  const key = (valueIn(surveyed, ["roles", "key"]) ?? []) as readonly string[];
  const [parts, setParts] = useState<readonly string[]>(() => readKey(value));
  const strand = braid && mainGroup(braid)?.strand;
  const wanted = readKey(value);
  const {
    value: places,
    failure,
    asking,
  } = useAnswer<readonly FollowedPlace[]>(
    "follow",
    value === "" || !braid || strand === undefined
      ? undefined
      : ({ strand, after: lengthOf(braid, strand), key: wanted } as never),
  );
  return (
    <section
      aria-label="Follow a row"
      className="flex h-[52%] min-h-[300px] shrink-0 flex-col bg-linen"
      data-testid="follow"
    >
      <form
        className="flex items-center gap-3 border-b border-rule px-4 py-1.5"
        onSubmit={(event) => {
          event.preventDefault();
          if (parts.every((part) => part !== "")) onValue(writeKey(parts));
        }}
      >
        <h2>Follow a row</h2>
        {key.map((name, index) => (
          <label key={name} className="flex items-center gap-1.5 text-faded">
            {name}
            <input
              autoFocus={index === 0}
              className="field figure w-44"
              value={parts[index] ?? ""}
              onChange={(event) =>
                setParts(key.map((_, at) => (at === index ? event.target.value : (parts[at] ?? ""))))
              }
            />
          </label>
        ))}
        <button type="submit" className="press py-0.5">
          Follow
        </button>
        {asking && <span className="text-faded">following …</span>}
        <button
          type="button"
          className="press press-quiet ml-auto px-1.5"
          onClick={() => onValue(null)}
          aria-label="Stop following"
        >
          <X size={15} />
        </button>
      </form>
      <div className="min-h-0 flex-1 overflow-auto px-4 pb-4">
        {failure && (
          <p role="alert" className="py-3 text-madder">
            The row could not be followed. {failure}
          </p>
        )}
        {value === "" && (
          <p className="py-3 text-faded">
            Enter a key to see the row’s values at each step, where it was dropped and why, and which rows it
            was joined with.
          </p>
        )}
        {places?.every((place) => place.state === "absent" || place.state === "no key yet") && (
          <p className="py-3 text-madder">No row has this key. Check the spelling.</p>
        )}
        {places?.some((place) => place.state === "there") && (
          <ol>
            {places.map((place, index) => (
              <PlaceLine key={place.after} place={place} before={places[index - 1]} />
            ))}
          </ol>
        )}
      </div>
    </section>
  );
}

function PlaceLine({
  place,
  before,
}: {
  readonly place: FollowedPlace;
  readonly before: FollowedPlace | undefined;
}) {
  const [all, setAll] = useState(false);
  const row = place.rows.rows[0];
  const cell = (of: FollowedPlace | undefined, name: string): string | null | undefined => {
    const at = of?.rows.columns.indexOf(name) ?? -1;
    return at < 0 ? undefined : of?.rows.rows[0]?.[at];
  };
  const names =
    place.after === 0 || all
      ? place.rows.columns
      : place.written.filter((name) => place.rows.columns.includes(name));
  const showAll = names.length === 0 ? "no changes; show all" : "show all values";
  const tell = (value: string | null | undefined) => (value === undefined ? "" : (value ?? "missing"));
  return (
    <li
      className={`grid grid-cols-[26px_220px_1fr] gap-x-3 border-b border-weft py-1.5 ${place.state === "gone" ? "bg-paper" : ""}`}
    >
      <span aria-hidden className={SIGN_COLOURS[place.state]}>
        {SIGNS[place.state]}
      </span>
      <span className="min-w-0">
        <b className="font-medium">{place.step}</b>
        <span className="block truncate text-caption text-faded" title={place.sentence}>
          {place.sentence}
        </span>
        <span className={`text-caption ${place.state === "gone" ? "text-madder" : "text-faded"}`}>
          {WORDS[place.state]}
          {place.rows.rows.length > 1 && `, ${place.rows.rows.length} rows`}
        </span>
      </span>
      <div className="min-w-0">
        {place.because && <p className="text-madder">{place.because}</p>}
        {place.joined &&
          (place.joined.rows.rows.length === 0 ? (
            <p className="text-madder">Nothing in {place.joined.strand} matches.</p>
          ) : (
            <p className="text-caption">
              <span className="text-faded">
                joined with{" "}
                {place.joined.rows.rows.length === 1 ? "this row" : `${place.joined.rows.rows.length} rows`}{" "}
                of {place.joined.strand}:{" "}
              </span>
              {place.joined.rows.rows.map((row, index) => (
                <span key={index} className="figure mr-3 text-caption">
                  {place.joined!.rows.columns.map((name, at) => `${name} ${row[at] ?? "missing"}`).join(", ")}
                </span>
              ))}
            </p>
          ))}
        {row && names.length > 0 && (
          <dl className="flex flex-wrap gap-x-4 gap-y-0.5 text-caption">
            {names.map((name) => {
              const [old, now] = [cell(before, name), cell(place, name)];
              return (
                <div key={name} className="flex max-w-md gap-1">
                  <dt className="text-faded">{name}</dt>
                  <dd className="figure truncate">
                    {old !== undefined && old !== now && (
                      <>
                        <s className="text-faded">{tell(old)}</s> →{" "}
                      </>
                    )}
                    {now === null ? <i className="text-faded">missing</i> : now}
                  </dd>
                </div>
              );
            })}
          </dl>
        )}
        {row && place.after > 0 && (
          <button type="button" className="text-caption text-faded underline" onClick={() => setAll(!all)}>
            {all ? "only changed values" : showAll}
          </button>
        )}
      </div>
    </li>
  );
}
