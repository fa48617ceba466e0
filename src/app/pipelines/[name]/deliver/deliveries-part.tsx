import type { DeliverPageData } from "@/server/deliver-page";
import { Empty } from "@/ui/basic/empty";
import type { DeliveryFacts } from "@/ui/deliver/delivery-draft";
import { DeliveryForm } from "@/ui/deliver/delivery-form";
import { DeliveryTable } from "@/ui/deliver/delivery-table";

/** Which tables predictions are written to. */
export function DeliveriesPart({
  data,
  facts,
}: {
  readonly data: DeliverPageData;
  readonly facts: DeliveryFacts;
}) {
  const { deliveries, file, inService, ledger, newestRuns, versions } = data;
  const newest = versions[0];
  return (
    <>
      <div className="mb-1 mt-8 flex items-center gap-4">
        <h2>Deliveries</h2>
        {file && (
          <DeliveryForm facts={facts} delivery={undefined} place={null}>
            <button type="button" className="press">
              Add delivery
            </button>
          </DeliveryForm>
        )}
      </div>
      {deliveries.length === 0 ? (
        <Empty title="No deliveries yet.">
          A delivery says which table predictions are written to, and how.
        </Empty>
      ) : (
        <DeliveryTable
          facts={facts}
          deliveries={deliveries}
          ledger={ledger}
          runs={newestRuns}
          canScore={inService !== undefined}
        />
      )}
      {inService && newest && newest.planHash !== inService.planHash && (
        <p className="mt-2 text-caption text-weld">
          The newest file prepares rows differently from version {inService.number}. Until a version trained
          from it is in service, deliveries follow the file that version {inService.number} was trained from.
        </p>
      )}
    </>
  );
}
