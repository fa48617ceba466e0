import type { Dialect } from "@/core/dialect";
import type { GrantWish } from "./grants";
import type { Warehouse } from "./warehouse";

/** What it takes to reach a warehouse with one role. */
export interface WarehouseLogin {
  readonly host: string;
  readonly port: number;
  readonly database: string;
  readonly user: string;
  readonly password: string;
}

/** A warehouse: how it is reached, and where in it things are kept. */
export interface WarehouseConfig {
  readonly reader: WarehouseLogin;
  readonly writer: WarehouseLogin;
  /** Schema in which prediction tables and the ledger live. */
  readonly outputSchema: string;
  /** Schema for tables loaded from files. */
  readonly importSchema: string;
  /** Schema for frames, stages and kept holdouts. */
  readonly scratchSchema: string;
}

/** One thing that was tried of a warehouse before it is used. */
export interface RoleCheck {
  readonly role: "reader" | "writer";
  readonly what: string;
  /** "warning": it can be used so, but should not be. */
  readonly state: "good" | "warning" | "wrong";
  readonly detail?: string;
  /** A statement that an administrator of the warehouse can run to put it right. */
  readonly remedy?: string;
}

/**
 * What kind of failure an error of a warehouse is.
 * - `connection_lost`: the warehouse went away; the same work may succeed later
 * - `busy`: a lock, a deadlock, too many connections: the same work may succeed in a while
 * - `timeout`: a statement took longer than it may
 * - `cancelled`: a statement was cancelled
 * - `bad_value`: a value does not fit a type or an operation
 * - `refused`: the warehouse refused a statement for another reason
 */
export type ErrorKind = "connection_lost" | "busy" | "timeout" | "cancelled" | "bad_value" | "refused";

/** An error as a kind of warehouse knows it. */
export interface WarehouseFailure {
  readonly kind: ErrorKind;
  /** The warehouse's own code and words. */
  readonly code: string;
  readonly message: string;
  /** What to do about it, where that is known. */
  readonly hint?: string | undefined;
}

/** A kind of warehouse. Its folder holds everything that knows it; its line is in `engines.ts`. */
export interface WarehouseEngine {
  readonly dialect: Dialect;
  readonly open: (config: WarehouseConfig) => Warehouse;
  /**
   * Tries both roles of a warehouse: whether they get in, may do what they need, and no more. What is wrong comes
   * with what puts it right.
   */
  readonly tryRoles: (config: WarehouseConfig) => Promise<readonly RoleCheck[]>;
  /**
   * What the owner of a warehouse runs so that both roles can do what they need, and nothing more. Running it again
   * does no harm. Throws on names that nothing can have (core/names/identifier).
   */
  readonly grantStatements: (wish: GrantWish) => readonly string[];
  /** What an error means; undefined when it does not come from this kind of warehouse. */
  readonly failureOf: (error: unknown) => WarehouseFailure | undefined;
}
