import type { Landing } from "../port/landing";
import {
  checkStage,
  ensureLedger,
  land,
  landedBefore,
  leaveOutUnanswered,
  newestLanded,
  repeatedKeys,
  tablesThere,
} from "./delivery";
import type { PostgresSession } from "./session";
import { columnsOfRelation, ensureTarget, judgeTarget } from "./target";

/** Brings rows into the tables of a warehouse, with the ledger beside the prediction tables. */
export const landingOf = (session: PostgresSession, outputSchema: string): Landing => ({
  landed: async (delivery) => {
    await ensureLedger(session, outputSchema);
    return landedBefore(session, outputSchema, delivery);
  },
  newest: (delivery, newerBy) => newestLanded(session, outputSchema, delivery, newerBy),
  tablesThere: (tables) => tablesThere(session, tables),
  columnsOf: (relation, scratch) => columnsOfRelation(session, relation, scratch),
  judge: async (table, columns, rule) => {
    await judgeTarget(session, table, columns, rule);
  },
  leaveOutUnanswered: (stage, key) => leaveOutUnanswered(session, stage, key),
  checkStage: (stage, key, of) => checkStage(session, stage, key, of),
  repeatedKeys: (stage, key) => repeatedKeys(session, stage, key),
  prepare: (table, move, comment) => ensureTarget(session, table, move, comment),
  land: (move, delivery) => land(session, outputSchema, move, delivery),
});
