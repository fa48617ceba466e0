import { formatDuration, formatNumber } from "@/core/format/numbers";
import { moment } from "../basic/format";
import type { ProfileControl } from "./use-profile";
import { Select } from "../select/select";
import { pairedOptions } from "../select/options";

const EVERY = [
  ["", "on request"],
  ["1", "every hour"],
  ["24", "every day"],
  ["168", "every week"],
] as const;

/** When the profile was taken, and how it is refreshed. */
export function ProfileTools({
  control: { kept, failure, refresh, schedule },
  changedAt,
}: {
  readonly control: ProfileControl;
  readonly changedAt: string | null;
}) {
  return (
    <div className="flex flex-wrap items-center gap-3 pb-2 pt-1 text-caption text-faded">
      <span role="status">
        <ProfileState kept={kept} failure={failure} changedAt={changedAt} />
      </span>
      <button type="button" className="press py-0.5" disabled={kept?.underWay} onClick={refresh}>
        Refresh
      </button>
      <label className="flex items-center gap-1.5">
        automatic refresh
        <Select
          label="Automatic profile refresh"
          className="py-0"
          value={String(kept?.refreshHours ?? "")}
          options={pairedOptions(EVERY)}
          onChange={(hours) => schedule(hours === "" ? null : Number(hours))}
        />
      </label>
    </div>
  );
}

function ProfileState({
  kept,
  failure,
  changedAt,
}: Pick<ProfileControl, "kept" | "failure"> & { readonly changedAt: string | null }) {
  if (failure) return <span className="text-madder">{failure}</span>;
  if (kept?.problem)
    return <span className="text-madder">The profile could not be taken. {kept.problem}</span>;
  if (!kept?.profile) return "profiling all rows …";
  const isStale = kept.profiledAt && changedAt && new Date(changedAt) > new Date(kept.profiledAt);
  return (
    <>
      Profile of {formatNumber(kept.profile.rows)} rows, taken{" "}
      <span className="real-time">{moment(kept.profiledAt)}</span> in {formatDuration(kept.profile.took ?? 0)}
      {kept.underWay && ", refreshing …"}
      {isStale && <span className="text-madder">; the table has changed since</span>}
    </>
  );
}
