"use server";
import { z } from "zod";
import { success } from "@/core/problem";
import { connectWarehouse, type Connected } from "@/runs/connect";
import { action, refuse, type Outcome } from "./answer/action";
import { textInput } from "./answer/inputs";
import { appContext, encryptionKey, followWarehouse } from "./context";

const LONGEST_NAME = 63;
const name = textInput(LONGEST_NAME).trim().min(1);
const role = z.object({ user: name, password: textInput(1000) });

const connectionInput = z.object({
  host: textInput(255).trim().min(1),
  port: z.int().min(1).max(65_535),
  database: name,
  reader: role,
  writer: role,
  outputSchema: name,
  scratchSchema: name,
  importSchema: name,
});

/** Tries a warehouse with both roles, and uses it from now on when they can do their work. */
export const connect = action([connectionInput], async (wanted): Promise<Outcome<Connected>> => {
  const { host, port, database, reader, writer, ...schemas } = wanted;
  const place = { host, port, database };
  const { store } = await appContext();
  const config = { reader: { ...place, ...reader }, writer: { ...place, ...writer }, ...schemas };
  const outcome = await connectWarehouse(store, config, encryptionKey());
  if ("problem" in outcome) return refuse(outcome.problem);
  if (outcome.connected) await followWarehouse();
  return success(outcome);
});
