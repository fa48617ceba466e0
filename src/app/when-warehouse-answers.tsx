import type { ReactNode } from "react";
import { isConnectionLoss } from "@/runs/failure";
import { WarehouseAway } from "@/ui/basic/warehouse-away";

/** A page that reads the warehouse; where that does not answer, one that says so. */
export async function whenWarehouseAnswers(page: () => Promise<ReactNode>): Promise<ReactNode> {
  try {
    return await page();
  } catch (error) {
    if (!isConnectionLoss(error)) throw error;
    return <WarehouseAway />;
  }
}
