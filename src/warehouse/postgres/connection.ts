import pg from "pg";
import type { WarehouseLogin } from "../port/engine";

/** The driver gives 64-bit integers and exact numerics as text; counts and figures are wanted as numbers. */
const NUMERIC_TYPES = new Set([20, 1700]);
/** Dates and times are kept as the database writes them: a JavaScript Date would lose microseconds and zones. */
const TEXT_TYPES = new Set([1082, 1083, 1114, 1184, 1266, 1186]);

export const valueParsers: pg.CustomTypesConfig = {
  getTypeParser: ((oid: number, format?: "text" | "binary") => {
    if (NUMERIC_TYPES.has(oid))
      return (value: string): number | string =>
        Number.isSafeInteger(Number(value)) || value.includes(".") ? Number(value) : value;
    if (TEXT_TYPES.has(oid)) return (value: string): string => value;
    return pg.types.getTypeParser(oid, format ?? "text");
  }) as pg.CustomTypesConfig["getTypeParser"],
};

/** Settings under which a statement gives the same text for the same value, wherever it is run. */
const SESSION =
  "-c timezone=UTC -c datestyle=ISO -c intervalstyle=postgres -c extra_float_digits=1 -c search_path=pg_catalog -c standard_conforming_strings=on";

/** Quiet for so long, a connection is asked whether the other side is still there. */
const KEEP_ALIVE_MILLISECONDS = 10_000;

/** @param patience milliseconds that somebody waits for a connection */
export function createPool(login: WarehouseLogin, size: number, purpose: string, patience = 10_000): pg.Pool {
  const pool = new pg.Pool({
    ...login,
    max: size,
    application_name: `ravlen ${purpose}`,
    options: SESSION,
    types: valueParsers,
    idleTimeoutMillis: 10_000,
    connectionTimeoutMillis: patience,
    keepAlive: true,
    keepAliveInitialDelayMillis: KEEP_ALIVE_MILLISECONDS,
  });
  // A connection that breaks while idle is replaced by the pool; the next statement will tell if the server is gone.
  pool.on("error", () => undefined);
  return pool;
}
