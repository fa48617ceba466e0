"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { useForm } from "react-hook-form";
import { changeNotify } from "@/server/operating-actions";
import type { Notify } from "@/store/settings";
import { TextField } from "../basic/text-field";
import { useSave } from "../basic/use-save";
import { notifySchema, type NotifyValues } from "./notify-schema";

/** Who hears of alerts, beside those who look at Today. */
export function NotifyForm({ notify }: { readonly notify: Notify }) {
  const { register, handleSubmit, formState } = useForm<NotifyValues>({
    resolver: zodResolver(notifySchema),
    defaultValues: {
      webhook: notify.webhook ?? "",
      to: notify.mail?.to ?? "",
      from: notify.mail?.from ?? "",
      server: notify.mail?.server ?? "",
    },
  });
  const { errors } = formState;
  const [busy, save] = useSave(changeNotify, { done: "Notifications saved." });
  return (
    <form
      className="mt-1 flex flex-wrap items-start gap-3"
      onSubmit={(event) => void handleSubmit(save)(event)}
    >
      <TextField
        label="Webhook"
        placeholder="https://…"
        className="w-56"
        error={errors.webhook}
        {...register("webhook")}
      />
      <TextField
        label="Email to"
        placeholder="name@example.org"
        className="w-56"
        error={errors.to}
        {...register("to")}
      />
      <TextField
        label="from"
        placeholder="ravlen@example.org"
        className="w-52"
        error={errors.from}
        {...register("from")}
      />
      <TextField
        label="through the server"
        placeholder="host:25"
        className="w-40"
        error={errors.server}
        {...register("server")}
      />
      <button type="submit" className="press mt-5" disabled={busy} aria-busy={busy}>
        Save
      </button>
    </form>
  );
}
