import type { Database } from "@/store/database";
import { warehouseMark } from "@/store/settings";

/**
 * Whether another warehouse was connected since a process began: it then ends, when it has nothing in
 * hand, and the next one works in the new one.
 */
export class WarehouseWatch {
  /** Whether it is another one by now. */
  changed = false;

  constructor(
    private readonly db: Database,
    private readonly mark: number | undefined,
  ) {}

  async look(): Promise<void> {
    if ((await warehouseMark(this.db)) !== this.mark) this.changed = true;
  }
}
