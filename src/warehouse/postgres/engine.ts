import type { WarehouseEngine } from "../port/engine";
import { postgresDialect } from "./dialect/dialect";
import { failureOf } from "./failure";
import { grantStatements } from "./grants";
import { tryRoles } from "./try-roles";
import { PostgresWarehouse } from "./warehouse";

/** PostgreSQL, as a kind of warehouse. */
export const postgres: WarehouseEngine = {
  dialect: postgresDialect,
  open: (config) => new PostgresWarehouse(config),
  tryRoles,
  grantStatements,
  failureOf,
};
