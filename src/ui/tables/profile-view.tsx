"use client";
import { SkeletonCells } from "../basic/skeleton";
import type { ValueType } from "@/core/value-type";
import { EditableWords } from "./editable-words";
import { ProfileFigures } from "./profile-figures";
import { ProfileTools } from "./profile-tools";
import { useProfile, type KeptProfile } from "./use-profile";
import { Sheet } from "../basic/sheet";

export interface DescribedColumn {
  readonly name: string;
  readonly type: ValueType;
  readonly declared: string;
  readonly keys: readonly string[];
  readonly description: string | null;
}

interface Props {
  readonly schema: string;
  readonly table: string;
  readonly columns: readonly DescribedColumn[];
  readonly changedAt: string | null;
  /** The profile that the page came with. */
  readonly first: KeptProfile;
}

/** All columns of a table with their profile. */
export function ProfileView({ schema, table, columns, changedAt, first }: Props) {
  const control = useProfile(schema, table, first);
  const profile = control.kept?.profile;
  return (
    <>
      <ProfileTools control={control} changedAt={changedAt} />
      <Sheet className="table-fixed">
        <thead>
          <tr>
            <th className="w-[24%]">Column</th>
            <th className="number w-[8%]">Missing</th>
            <th className="number w-[9%]">Distinct</th>
            <th className="w-[21%]">Range</th>
            <th className="w-[22%]">Distribution</th>
            <th>Notes</th>
          </tr>
        </thead>
        <tbody>
          {columns.map((column) => {
            const found = profile?.columns.find((one) => one.column === column.name);
            return (
              <tr key={column.name} data-column={column.name}>
                <td className="break-words">
                  <span className="font-medium">{column.name}</span>{" "}
                  <span className="text-faded">
                    {column.declared}
                    {column.keys.length > 0 && `, ${column.keys.join(", ")}`}
                  </span>
                  <br />
                  <EditableWords
                    schema={schema}
                    table={table}
                    column={column.name}
                    words={column.description}
                    empty="describe"
                  />
                </td>
                {found ? (
                  <ProfileFigures profile={found} type={column.type} remarks={found.remarks} />
                ) : (
                  <NoFigures isNew={Boolean(profile)} />
                )}
              </tr>
            );
          })}
        </tbody>
      </Sheet>
    </>
  );
}

/** In place of a column's figures: that the column is newer than the profile, or a skeleton. */
const NoFigures = ({ isNew }: { readonly isNew: boolean }) =>
  isNew ? (
    <td colSpan={5} className="text-faded">
      new since the profile
    </td>
  ) : (
    <SkeletonCells label="counting …" cells={5} />
  );
