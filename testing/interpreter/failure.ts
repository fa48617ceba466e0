/** Why an expression has no value: the SQL standard's name of the condition. */
export class ConditionError extends Error {
  constructor(readonly condition: string) {
    super(condition);
  }
}

export const outOfRange = (): ConditionError => new ConditionError("numeric value out of range");
export const divisionByZero = (): ConditionError => new ConditionError("division by zero");
export const badText = (): ConditionError => new ConditionError("invalid character value for cast");
