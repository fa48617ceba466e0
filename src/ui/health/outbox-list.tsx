"use client";
import { sendMessageAgain } from "@/server/operating-actions";
import type { MessageRow } from "@/store/outbox";
import { ActButton } from "../basic/act";
import { moment } from "../basic/format";
import { useFirst } from "../basic/use-first";

/** Messages that are shown at first. */
const FEW_MESSAGES = 20;

/** What somebody outside was told or handed, newest first. */
export function OutboxList({ messages }: { readonly messages: readonly MessageRow[] }) {
  const { shown, showAll } = useFirst(messages, FEW_MESSAGES, "messages");
  if (messages.length === 0) return <p className="text-faded">Nothing has been sent yet.</p>;
  return (
    <>
      <table className="sheet mt-1" data-testid="outbox">
        <thead>
          <tr>
            <th>State</th>
            <th>How</th>
            <th>To</th>
            <th>What</th>
            <th>When</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {shown.map((each) => (
            <tr key={each.id}>
              <td
                className={
                  each.state === "sent"
                    ? "text-moss"
                    : each.state === "given up"
                      ? "text-madder"
                      : "text-weld"
                }
              >
                {each.state}
                {each.state === "waiting" && each.attempts > 0 && (
                  <span className="block text-xs text-faded">tried {each.attempts} times</span>
                )}
              </td>
              <td>{each.kind}</td>
              <td className="max-w-52 truncate" title={each.target}>
                {each.target}
              </td>
              <td>
                {each.subject}
                {each.problem && <span className="block text-xs text-madder">{each.problem}</span>}
              </td>
              <td className="whitespace-nowrap">{moment(each.sentAt ?? each.createdAt)}</td>
              <td className="text-right">
                {each.state !== "sent" && (
                  <ActButton act={() => sendMessageAgain(each.id)}>Send again</ActButton>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {showAll}
    </>
  );
}
