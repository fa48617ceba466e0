import { postgres } from "./postgres/engine";
import type { WarehouseConfig, WarehouseEngine, WarehouseFailure } from "./port/engine";
import type { Warehouse } from "./port/warehouse";

/** The kinds of warehouses that there are. */
const ENGINES: readonly [WarehouseEngine, ...WarehouseEngine[]] = [postgres];

/** The kind of warehouse that a connection is to, and that is asked where there is no connection. */
export const [engine] = ENGINES;

export const openWarehouse = (config: WarehouseConfig): Warehouse => engine.open(config);

/** What an error means; undefined when it does not come from a warehouse. */
export function failureOf(error: unknown): WarehouseFailure | undefined {
  for (const { failureOf: read } of ENGINES) {
    const failure = read(error);
    if (failure) return failure;
  }
  return undefined;
}
