"use client";
import { FilePen } from "lucide-react";
import { ActButton } from "../basic/act";
import { moment } from "../basic/format";
import { fetchTextBack } from "@/server/draft-actions";
import { HiddenHead } from "../basic/hidden-head";
import { Sheet } from "../basic/sheet";

export interface AsideText {
  readonly id: number;
  readonly text: string;
  readonly basedOn: number;
  readonly whose: "mine" | "theirs" | "draft";
  readonly createdAt: string;
}

const WHOSE: Readonly<Record<AsideText["whose"], string>> = {
  mine: "of the user who resolved it",
  theirs: "of the other user",
  draft: "the draft before",
};

/** Texts of drafts that gave way to others. Each can be made the draft again. */
export function TextsAside({
  pipeline,
  texts,
}: {
  readonly pipeline: string;
  readonly texts: readonly AsideText[];
}) {
  if (texts.length === 0) return null;
  return (
    <section aria-label="Drafts set aside" className="mt-8">
      <h2>Drafts set aside</h2>
      <p className="text-caption text-faded">
        When two users change one draft, both texts are kept here, as is any draft that is replaced.
      </p>
      <Sheet className="mt-1">
        <thead>
          <tr>
            <th className="real-time">Set aside</th>
            <th>Author</th>
            <th>Based on</th>
            <th>Text</th>
            <HiddenHead name="Actions" />
          </tr>
        </thead>
        <tbody>
          {texts.map(({ id, text, basedOn, whose, createdAt }) => (
            <tr key={id}>
              <td className="whitespace-nowrap align-top">{moment(createdAt)}</td>
              <td className="align-top">{WHOSE[whose]}</td>
              <td className="align-top">version {basedOn}</td>
              <td>
                <details>
                  <summary className="cursor-pointer">{text.split("\n").length} lines</summary>
                  <pre className="figure mt-1 max-h-72 overflow-auto text-caption">{text}</pre>
                </details>
              </td>
              <td className="text-right align-top">
                <ActButton
                  icon={FilePen}
                  act={() => fetchTextBack(id)}
                  goTo={() => `/pipelines/${encodeURIComponent(pipeline)}/braid`}
                >
                  Use as draft
                </ActButton>
              </td>
            </tr>
          ))}
        </tbody>
      </Sheet>
    </section>
  );
}
