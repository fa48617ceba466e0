import { formatNumber, formatPart } from "@/core/format/numbers";
import type { ColumnProfile, ColumnRemarks } from "@/core/evaluate/table-profile";
import { familyOf, type ValueType } from "@/core/value-type";
import { useFirst } from "../basic/use-first";
import { Histogram } from "../charts/histogram";

/** Frequent values, and groups of spellings, that are shown at first. */
const [FEW_VALUES, FEW_SPELLINGS] = [5, 3];
const MOST_LETTERS = 40;

interface Props {
  readonly profile: ColumnProfile;
  readonly type: ValueType;
  readonly remarks: ColumnRemarks;
}

/** A value as the profile keeps it: numbers in the form of all numbers, times by their day. */
function valueText(value: string | null, type: ValueType): string {
  if (value === null) return "–";
  if (familyOf(type) === "number") return formatNumber(Number(value));
  return value.replace(/^(\d{4}-\d{2}-\d{2}).*$/, "$1").slice(0, MOST_LETTERS);
}

/** The cells of a column's row: missing, distinct, range, distribution, notes. */
export function ProfileFigures(props: Props) {
  const { profile } = props;
  const isEntirelyMissing = profile.rows > 0 && profile.missing === profile.rows;
  return (
    <>
      <td className={`number ${profile.missing > 0 ? "text-madder" : ""}`}>
        {profile.rows === 0 ? "–" : formatPart(profile.missing, profile.rows)}
      </td>
      <td className="number">{formatNumber(profile.distinct)}</td>
      <td className="break-words">
        {isEntirelyMissing ? <span className="text-madder">entirely missing</span> : <Range {...props} />}
      </td>
      <td>
        <Distribution {...props} />
      </td>
      <td className="text-caption">
        <Notes {...props} isConstant={Boolean(props.remarks.constant) && !isEntirelyMissing} />
      </td>
    </>
  );
}

function Range({ profile, type, remarks }: Props) {
  return (
    <>
      <span className="figure">
        {valueText(profile.smallest, type)} … {valueText(profile.largest, type)}
      </span>
      {profile.quartiles && (
        <span className="block text-faded">
          quartiles{" "}
          <span className="figure">
            {profile.quartiles.map((value) => valueText(value, type)).join(" · ")}
          </span>
        </span>
      )}
      {remarks.lengths && (
        <span className="block text-faded">
          length{" "}
          <span className="figure">
            {remarks.lengths.shortest} · {remarks.lengths.median} · {remarks.lengths.longest}
          </span>
        </span>
      )}
    </>
  );
}

function Distribution({ profile, remarks }: Props) {
  const { shown: values, showAll } = useFirst(profile.topValues, FEW_VALUES, "frequent values");
  const bins =
    remarks.months && remarks.months.length > 1
      ? remarks.months.map(({ month, rows }) => ({ from: month, to: month, rows }))
      : profile.histogram;
  return (
    <>
      {bins.length > 0 && <Histogram bins={bins} />}
      {values.length > 0 && (
        <ul className="flex flex-wrap gap-x-3 gap-y-0.5">
          {values.map(({ value, rows }) => (
            <li key={value} className="max-w-44 truncate" title={value}>
              {value === "" ? "(empty text)" : value}{" "}
              <span className="figure text-faded">{formatPart(rows, profile.rows)}</span>
            </li>
          ))}
          {profile.distinct > values.length && (
            <li className="text-faded">and {formatNumber(profile.distinct - values.length)} more</li>
          )}
          {showAll && <li>{showAll}</li>}
        </ul>
      )}
    </>
  );
}

function Notes({ remarks, isConstant }: Props & { readonly isConstant: boolean }) {
  const { shown: spellings, showAll } = useFirst(
    remarks.spellings ?? [],
    FEW_SPELLINGS,
    "groups of spellings",
  );
  return (
    <>
      {remarks.likelyKey && <p>All values distinct: a likely key.</p>}
      {isConstant && <p className="text-madder">Constant value.</p>}
      {remarks.outliers && remarks.outliers.rows > 0 && (
        <p className="text-madder">
          {formatNumber(remarks.outliers.rows)} outliers, below {formatNumber(remarks.outliers.below)} or
          above {formatNumber(remarks.outliers.above)}.
        </p>
      )}
      {remarks.lengths && remarks.lengths.empty > 0 && (
        <p className="text-madder">{formatNumber(remarks.lengths.empty)} empty texts.</p>
      )}
      {spellings.map((group) => (
        <p key={group[0]?.value} className="text-madder">
          Possible spelling variants:{" "}
          {group.map(({ value, rows }) => `“${value}” ${formatNumber(rows)}`).join(", ")}
        </p>
      ))}
      {showAll}
    </>
  );
}
