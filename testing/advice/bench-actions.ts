import { labFile, type LabFileOptions } from "../lab";
import type { Bench } from "../warehouse";

/** Something that a situation does, now or when it is its turn. */
export type Action = () => Promise<unknown>;

/** Actions one after the other; the last one's value counts. */
export const first =
  (...actions: readonly Action[]): Action =>
  async () => {
    let last: unknown;
    for (const action of actions) last = await action();
    return last;
  };

/** A pipeline file that delivers into a table of its own. */
export const ready = (name: string, more: LabFileOptions = {}): string =>
  labFile({ name, delivery: `{name: desk, table: predictions.${name}, mode: upsert}`, ...more });

/** What situations do on a bench that is opened only when the tests begin. */
export const benchActions = (bench: () => Bench) => {
  const saving =
    (name: string, more: LabFileOptions = {}): Action =>
    () =>
      bench().save(ready(name, more));
  const training =
    (name: string, at?: Date): Action =>
    () =>
      bench().train(name, at);
  return {
    saving,
    training,
    made: (name: string, more: LabFileOptions = {}): Action => first(saving(name, more), training(name)),
    sql:
      (text: string | (() => string)): Action =>
      () =>
        bench().sql(typeof text === "string" ? text : text()),
  };
};
