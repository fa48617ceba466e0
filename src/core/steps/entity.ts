import { call, column, text, type Expression } from "../expression/ast";
import { asText } from "./shared";

const BETWEEN = " / ";

/** A part of a name, its strokes marked, so that ("a / b", "c") and ("a", "b / c") stay two entities. */
const marked = (name: string): Expression =>
  call("replace", call("replace", asText(column(name)), text("\\"), text("\\\\")), text("/"), text("\\/"));

/** The columns that name an entity or group as one text, as the learned values are keyed. One missing column makes it missing; of several, missing parts are empty. */
export const entityText = (names: readonly string[]): Expression =>
  names.length === 1
    ? asText(column(names[0]!))
    : call(
        "concat",
        ...names.flatMap((name, index) => [...(index > 0 ? [text(BETWEEN)] : []), marked(name)]),
      );
