"use client";
import { Send } from "lucide-react";
import { sendMessageAgain } from "@/server/operating-actions";
import type { MessageRow } from "@/store/outbox";
import { ActButton } from "../basic/act";
import { moment } from "../basic/format";
import { useFirst } from "../basic/use-first";
import { HiddenHead } from "../basic/hidden-head";
import { Sheet } from "../basic/sheet";

/** Colours by state. */
const TONES: Readonly<Record<MessageRow["state"], string>> = {
  sent: "text-moss",
  "given up": "text-madder",
  waiting: "text-weld",
};
/** Messages that are shown at first. */
const FEW_MESSAGES = 20;

/** What somebody outside was told or handed, newest first. */
export function OutboxList({ messages }: { readonly messages: readonly MessageRow[] }) {
  const { shown, showAll } = useFirst(messages, FEW_MESSAGES, "messages");
  if (messages.length === 0) return <p className="text-faded">Nothing sent yet.</p>;
  return (
    <>
      <Sheet className="mt-1" data-testid="outbox">
        <thead>
          <tr>
            <th>State</th>
            <th>How</th>
            <th>To</th>
            <th>What</th>
            <th className="real-time">When</th>
            <HiddenHead name="Actions" />
          </tr>
        </thead>
        <tbody>
          {shown.map((message) => (
            <tr key={message.id}>
              <td className={TONES[message.state]}>
                {message.state}
                {message.state === "waiting" && message.attempts > 0 && (
                  <span className="block text-caption text-faded">tried {message.attempts} times</span>
                )}
              </td>
              <td>{message.kind}</td>
              <td className="max-w-52 truncate" title={message.target}>
                {message.target}
              </td>
              <td>
                {message.subject}
                {message.problem && <span className="block text-caption text-madder">{message.problem}</span>}
              </td>
              <td className="whitespace-nowrap">{moment(message.sentAt ?? message.createdAt)}</td>
              <td className="text-right">
                {message.state !== "sent" && (
                  <ActButton icon={Send} act={() => sendMessageAgain(message.id)}>
                    Send again
                  </ActButton>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </Sheet>
      {showAll}
    </>
  );
}
