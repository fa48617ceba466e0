import { binary, call, cast, double, integer, text, type Expression } from "./ast";

/** Stands between the parts of a composite key, so that ("a", "bc") and ("ab", "c") differ. */
export const SEPARATOR = "\u001f";

/** The md5 digest of texts, prefixed with a seed. NULL counts as empty. */
export function digestOf(seed: string | number, values: readonly Expression[]): Expression {
  return call(
    "md5",
    call("concat", text(`${seed}`), ...values.flatMap((value) => [text(SEPARATOR), cast(value, "text")])),
  );
}

/** Eight hexadecimal digits of a digest, from a position (1 is the first), as a number in [0, 1). */
export function fractionOf(digest: Expression, first: number): Expression {
  return binary(
    call("hex_to_bigint", call("substr", digest, integer(first), integer(8))),
    "/",
    double(4294967296),
  );
}
