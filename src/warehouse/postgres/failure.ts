import type { ErrorKind, WarehouseFailure } from "../port/engine";

/** Codes of the driver and the server that say more than that a statement was refused. */
const KINDS: Readonly<Record<string, ErrorKind>> = {
  "57P01": "connection_lost",
  "57P02": "connection_lost",
  "57P03": "connection_lost",
  ECONNREFUSED: "connection_lost",
  ECONNRESET: "connection_lost",
  EPIPE: "connection_lost",
  ETIMEDOUT: "connection_lost",
  "08000": "connection_lost",
  "08001": "connection_lost",
  "08003": "connection_lost",
  "08004": "connection_lost",
  "08006": "connection_lost",
  // Deadlock, serialisation, a lock that somebody holds, too many connections.
  "40P01": "busy",
  "40001": "busy",
  "55P03": "busy",
  "53300": "busy",
  "57014": "cancelled",
};

const HINTS: Readonly<Record<string, string>> = {
  "42501": "The warehouse role lacks a privilege; grant it, or check the tables in the pipeline.",
  "53400":
    "Sorting or joining needed more temporary disk than one session may take (temp_file_limit). Use fewer rows or columns, or raise the limit on the warehouse.",
  "53100": "The warehouse's disk is full. Free disk space and run again; nothing was partially written.",
  "57014": "The statement was cancelled.",
  "22012": "A division by zero: guard it with nullif(divisor, 0).",
  "22P02": "A value could not be converted to the target type; check the CAST in the step.",
  "42P01": "A table needed by the run no longer exists.",
  "55P03": "A table is locked by another session; run again later.",
};

const LOST =
  /connection terminated|terminating connection|client has encountered a connection error|timeout exceeded when trying to connect/i;

/** Data exceptions, in the classes of the SQL standard. */
const DATA_CLASS = "22";

/** Five letters and digits, as the SQL standard has them; names of errors of files have no digit. */
const isServerCode = (code: string): boolean => /^[0-9A-Z]{5}$/.test(code) && /\d/.test(code);

function kindOf(code: string, message: string): ErrorKind {
  if (code === "57014" && message.includes("statement timeout")) return "timeout";
  return KINDS[code] ?? (code.startsWith(DATA_CLASS) ? "bad_value" : "refused");
}

/** What an error of the driver or the server means; undefined for any other. */
export function failureOf(error: unknown): WarehouseFailure | undefined {
  const code = typeof error === "object" && error !== null && "code" in error ? String(error.code) : "";
  const message = error instanceof Error ? error.message : String(error);
  if (error instanceof Error && LOST.test(message)) return { kind: "connection_lost", code, message };
  const isKnown = code in KINDS || isServerCode(code);
  return isKnown ? { kind: kindOf(code, message), code, message, hint: HINTS[code] } : undefined;
}
