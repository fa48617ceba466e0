import type { DeliverPageData } from "@/server/deliver-page";
import type { ScheduleFacts } from "@/ui/deliver/schedule-draft";
import { ScheduleForm } from "@/ui/deliver/schedule-form";
import { ScheduleTable } from "@/ui/deliver/schedule-table";

/** When runs start without anybody starting them. */
export function SchedulesPart({
  data,
  facts,
}: {
  readonly data: DeliverPageData;
  readonly facts: ScheduleFacts;
}) {
  const { file, schedules, inService } = data;
  return (
    <>
      <div className="mt-8 flex items-center gap-4">
        <h2>Schedules</h2>
        {file && (
          <ScheduleForm facts={facts} schedule={undefined} place={null}>
            <button type="button" className="press">
              Add schedule
            </button>
          </ScheduleForm>
        )}
      </div>
      {schedules.length === 0 ? (
        <p className="text-faded">None: runs are started manually.</p>
      ) : (
        <ScheduleTable facts={facts} schedules={schedules} file={file} canScore={inService !== undefined} />
      )}
    </>
  );
}
