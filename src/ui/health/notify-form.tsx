"use client";
import { useState } from "react";
import { changeNotify } from "@/server/operating-actions";
import type { Notify } from "@/store/settings";
import { ActButton } from "../basic/act";

/** Who hears of alerts, beside those who look at Today. */
export function NotifyForm({ notify }: { readonly notify: Notify }) {
  const [webhook, setWebhook] = useState(notify.webhook ?? "");
  const [server, setServer] = useState(notify.mail?.server ?? "");
  const [from, setFrom] = useState(notify.mail?.from ?? "");
  const [to, setTo] = useState(notify.mail?.to ?? "");
  const field = (
    name: string,
    value: string,
    change: (value: string) => void,
    hint: string,
    width: string,
  ) => (
    <label className="text-sm">
      {name}
      <input
        className={`field mt-0.5 block ${width}`}
        value={value}
        placeholder={hint}
        onChange={(event) => change(event.target.value)}
      />
    </label>
  );
  return (
    <div className="mt-1 flex flex-wrap items-end gap-3">
      {field("Webhook", webhook, setWebhook, "https://…", "w-56")}
      {field("Email to", to, setTo, "name@example.org", "w-56")}
      {field("from", from, setFrom, "ravlen@example.org", "w-52")}
      {field("through the server", server, setServer, "host:25", "w-40")}
      <ActButton act={() => changeNotify({ webhook, server, from, to })} done="Notifications saved.">
        Save
      </ActButton>
    </div>
  );
}
