import { Fits, NO, YES } from "./classify";
import type { ColumnEvidence } from "./evidence";
import type { ColumnFinding, ColumnLook, DateOrder, LoadedType, ValueLook } from "./look";

/** Share of values that must fit a type for it to be proposed; the others would be misfits. */
const ENOUGH = 0.99;
const FEW_CATEGORIES = 12;
const CATEGORY_NAME = /(code|class|kind|type|group|category|status|zone|grade|level|bucket)$/i;
const IDENTIFIER_NAME = /(^|_)(id|no|nr|number|key|zip|postcode|phone|iban|ean|sku)$/i;
const YES_NO_NAME = /^(is|has|was|can|needs)_|_(flag|yn)$/i;
/** Below this many rows, few values say nothing about categories. */
const ROWS_FOR_CATEGORIES = 100;

type Test = (mask: number) => boolean;

const has = (...bits: readonly number[]): Test => {
  const all = bits.reduce((sum, bit) => sum | bit, 0);
  return (mask) => (mask & all) !== 0;
};
const WHOLE: Test = (mask) => (mask & (Fits.INTEGER | Fits.BIGINT)) !== 0;

/** Tests of each number type under a decimal mark. */
const isDecimal = (decimal: "." | ","): Test =>
  decimal === "."
    ? has(Fits.INTEGER, Fits.BIGINT, Fits.HUGE, Fits.DECIMAL_POINT, Fits.EXPONENT, Fits.THOUSAND_COMMAS)
    : has(Fits.INTEGER, Fits.BIGINT, Fits.HUGE, Fits.DECIMAL_COMMA, Fits.EXPONENT, Fits.THOUSAND_POINTS);

/** Values of a column that count: neither empty nor a marker. */
function counted(evidence: ColumnEvidence, test: Test): { readonly fitting: number; readonly all: number } {
  let fitting = 0;
  let all = 0;
  for (const [mask, rows] of evidence.masks) {
    if ((mask & (Fits.EMPTY | Fits.MARKER)) !== 0) continue;
    all += rows;
    if (test(mask)) fitting += rows;
  }
  return { fitting, all };
}

const enough = (evidence: ColumnEvidence, test: Test): boolean => {
  const { fitting, all } = counted(evidence, test);
  return all > 0 && fitting >= ENOUGH * all;
};
const occurs = (evidence: ColumnEvidence, test: Test): boolean => counted(evidence, test).fitting > 0;

/** The decimal mark of a file: the comma only where columns are numbers with it and not without. */
export function decimalMark(columns: readonly ColumnEvidence[]): "." | "," {
  const votes = (mark: "." | ","): number => {
    const own =
      mark === "."
        ? has(Fits.DECIMAL_POINT, Fits.THOUSAND_COMMAS)
        : has(Fits.DECIMAL_COMMA, Fits.THOUSAND_POINTS);
    return columns.filter(
      (column) =>
        enough(column, isDecimal(mark)) &&
        occurs(column, own) &&
        !enough(column, isDecimal(mark === "." ? "," : ".")),
    ).length;
  };
  return votes(",") > votes(".") ? "," : ".";
}

interface Proposal {
  readonly type: LoadedType;
  readonly dateOrder?: DateOrder;
  readonly test: Test;
  readonly hints: readonly string[];
}

function proposeType(evidence: ColumnEvidence, name: string, decimal: "." | ","): Proposal {
  const everything: Test = () => true;
  const text = (...hints: readonly string[]): Proposal => ({ type: "text", test: everything, hints });
  if (counted(evidence, everything).all === 0) return text("no values");
  const zeros = counted(evidence, has(Fits.LEADING_ZERO)).fitting;
  if (enough(evidence, has(Fits.INTEGER, Fits.BIGINT, Fits.HUGE, Fits.LEADING_ZERO)) && zeros > 0)
    return text("digits with leading zeros: read as text, to keep the zeros");
  if (enough(evidence, has(Fits.INTEGER, Fits.BIGINT, Fits.HUGE)) && occurs(evidence, has(Fits.HUGE)))
    return text("too many digits for an exact number: read as text");
  const yesNo = proposeYesNo(evidence, name);
  if (yesNo) return yesNo;
  if (occurs(evidence, has(Fits.INFINITE)) && occurs(evidence, isDecimal(decimal))) {
    const numbers: Test = (mask) => isDecimal(decimal)(mask) || has(Fits.INFINITE)(mask);
    if (enough(evidence, numbers)) return { type: "double precision", test: numbers, hints: [] };
  }
  if (enough(evidence, WHOLE)) return proposeWhole(evidence, name);
  if (enough(evidence, isDecimal(decimal)) && occurs(evidence, has(Fits.LONG, Fits.HUGE)))
    return {
      type: "numeric",
      test: isDecimal(decimal),
      hints: ["more digits than double precision holds: read as numeric"],
    };
  if (enough(evidence, isDecimal(decimal))) {
    const money =
      enough(evidence, (mask) => (mask & Fits.TWO_DIGITS) !== 0 || WHOLE(mask)) &&
      occurs(evidence, has(Fits.TWO_DIGITS)) &&
      !occurs(evidence, has(Fits.EXPONENT));
    return {
      type: money ? "numeric" : "double precision",
      test: isDecimal(decimal),
      hints: money ? ["two decimals throughout: read as numeric"] : [],
    };
  }
  const date = proposeDate(evidence);
  if (date) return date;
  if (enough(evidence, has(Fits.TIME))) return { type: "time", test: has(Fits.TIME), hints: [] };
  const values = evidence.values(FEW_CATEGORIES);
  return text(
    ...(values && values.length > 1 && evidence.rows >= ROWS_FOR_CATEGORIES
      ? [`a category: ${values.length} different values`]
      : []),
  );
}

function proposeYesNo(evidence: ColumnEvidence, name: string): Proposal | undefined {
  const values = (evidence.values(8) ?? []).map((text) => text.trim().toLowerCase());
  if (
    enough(evidence, has(Fits.BOOLEAN)) &&
    evidence.values(8) &&
    (values.some((value) => NO.has(value)) || values.includes("true"))
  ) {
    return {
      type: "boolean",
      test: has(Fits.BOOLEAN),
      hints: [`yes/no, written ${values.filter((value) => YES.has(value) || NO.has(value)).join(" and ")}`],
    };
  }
  if (enough(evidence, has(Fits.ZERO_ONE)) && evidence.distinct.count === 2) {
    return YES_NO_NAME.test(name)
      ? { type: "boolean", test: has(Fits.ZERO_ONE), hints: ["yes/no, written 0 and 1"] }
      : { type: "smallint", test: WHOLE, hints: ["only 0 and 1: possibly yes/no"] };
  }
  return undefined;
}

function proposeWhole(evidence: ColumnEvidence, name: string): Proposal {
  const values = evidence.values(FEW_CATEGORIES);
  const few = values !== undefined && evidence.rows >= ROWS_FOR_CATEGORIES;
  if (few && CATEGORY_NAME.test(name))
    return {
      type: "text",
      test: () => true,
      hints: [`numbers that name categories: ${values.length} different values`],
    };
  const hints = [
    ...(few ? [`only ${values.length} different numbers: possibly a category`] : []),
    ...(evidence.unique && evidence.rows >= ROWS_FOR_CATEGORIES && IDENTIFIER_NAME.test(name)
      ? ["an identifier: all values distinct"]
      : []),
  ];
  return { type: occurs(evidence, has(Fits.BIGINT)) ? "bigint" : "integer", test: WHOLE, hints };
}

function proposeDate(evidence: ColumnEvidence): Proposal | undefined {
  const orders = (["ymd", "dmy", "mdy"] as const).filter((order) => enough(evidence, has(ORDER_BITS[order])));
  const best = orders.sort(
    (left, right) =>
      counted(evidence, has(ORDER_BITS[right])).fitting - counted(evidence, has(ORDER_BITS[left])).fitting,
  )[0];
  if (!best) return undefined;
  const second = orders.find(
    (order) =>
      order !== best &&
      counted(evidence, has(ORDER_BITS[order])).fitting === counted(evidence, has(ORDER_BITS[best])).fitting,
  );
  const local: LoadedType = occurs(evidence, has(Fits.TIMED)) ? "timestamp" : "date";
  const type: LoadedType = occurs(evidence, has(Fits.ZONED)) ? "timestamptz" : local;
  return {
    type,
    dateOrder: best,
    test: has(ORDER_BITS[best]),
    hints: second
      ? [
          `${best === "dmy" ? "day before month" : "month before day"}, but the order of day and month is ambiguous`,
        ]
      : [],
  };
}

export const ORDER_BITS: Readonly<Record<DateOrder, number>> = {
  ymd: Fits.YMD,
  dmy: Fits.DMY,
  mdy: Fits.MDY,
};

/** Markers for "no value" that a file uses: the certain ones, and others where the column is else no text. */
export function missingMarkers(
  columns: readonly { readonly markers: Iterable<string>; readonly type: LoadedType }[],
): readonly string[] {
  const certain = new Set(["NULL", "null", "\\N", "#N/A", "N/A", "n/a"]);
  const found = new Set([""]);
  for (const { markers, type } of columns) {
    for (const marker of markers) if (type !== "text" || certain.has(marker)) found.add(marker);
  }
  return [...found];
}

/** A proposal for every column, from all its values. */
export function proposeColumns(
  columns: readonly {
    readonly source: string;
    readonly evidence: ColumnEvidence;
    readonly declared?: LoadedType | undefined;
  }[],
): {
  readonly columns: readonly ColumnLook[];
  readonly findings: readonly ColumnFinding[];
  readonly values: ValueLook;
  readonly key: readonly string[];
} {
  const decimal = decimalMark(columns.map((column) => column.evidence));
  const names = columnNames(columns.map((column) => column.source));
  const proposals = columns.map(({ evidence, declared }, place) =>
    declared === undefined
      ? proposeType(evidence, names[place]!, decimal)
      : ({ type: declared, test: () => true, hints: [] } satisfies Proposal),
  );
  const missing = missingMarkers(
    columns.map((column, place) => ({
      markers: column.evidence.markers.keys(),
      type: proposals[place]!.type,
    })),
  );
  const findings = columns.map(({ source, evidence }, place): ColumnFinding => {
    const { fitting, all } = counted(evidence, proposals[place]!.test);
    const { count, exact } = evidence.distinct;
    const taken = [...evidence.markers].filter(([marker]) => missing.includes(marker));
    const marked = taken.reduce((sum, [, rows]) => sum + rows, 0);
    const unmarked = [...evidence.markers.values()].reduce((sum, rows) => sum + rows, 0) - marked;
    return {
      source,
      missing: evidence.missing + marked,
      // What stands for a missing value is no value, here as in the table that is made of it.
      distinct: Math.max(0, count - taken.length),
      distinctIsExact: exact,
      longest: evidence.longest,
      examples: evidence.examples,
      misfits: all - fitting + (proposals[place]!.type === "text" ? 0 : unmarked),
      hints: proposals[place]!.hints,
      masks: [...evidence.masks],
      markers: [...evidence.markers],
      ...(evidence.values(FEW_CATEGORIES) ? { values: evidence.values(FEW_CATEGORIES)! } : {}),
    };
  });
  const looks = proposals.map((proposal, place): ColumnLook => ({
    place,
    name: names[place]!,
    type: proposal.type,
    take: true,
    ...("dateOrder" in proposal && proposal.dateOrder ? { dateOrder: proposal.dateOrder } : {}),
  }));
  const keys = looks.filter(
    (look, place) =>
      columns[place]!.evidence.unique &&
      findings[place]!.missing === 0 &&
      ["integer", "bigint", "text"].includes(look.type) &&
      findings[place]!.longest <= 64 &&
      columns[place]!.evidence.rows > 1,
  );
  const key = keys.find((key) => IDENTIFIER_NAME.test(key.name)) ?? keys.find((key) => key.place === 0);
  return { columns: looks, findings, values: { decimal, missing: [...missing] }, key: key ? [key.name] : [] };
}

/** Names for columns as a person would write them in SQL: lower case, letters, digits and _, none twice. */
export function columnNames(headings: readonly string[]): readonly string[] {
  const taken = new Set<string>();
  return headings.map((heading, place) => {
    const plain = heading
      .normalize("NFKD")
      .replaceAll(/\p{M}/gu, "")
      .trim()
      .toLowerCase()
      .replaceAll(/[^\p{L}\p{N}]+/gu, "_")
      .replaceAll(/^_+|_+$/g, "");
    const named = /^\d/.test(plain) ? `c_${plain}` : plain;
    const base = (plain === "" ? `column_${place + 1}` : named).slice(0, 50);
    let name = base;
    for (let number = 2; taken.has(name); number += 1) name = `${base}_${number}`;
    taken.add(name);
    return name;
  });
}
