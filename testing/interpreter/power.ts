import { ConditionError, outOfRange } from "./failure";
import * as exact from "./numeric";
import type { Numeric } from "./numeric";

/** A power of doubles. @throws ConditionError where there is none, or it is endless */
export function power(base: number, exponent: number): number {
  const failure = new ConditionError("invalid argument for power function");
  if (exponent === 0 || base === 1) return 1;
  if (base === 0 && exponent < 0) throw failure;
  if (base < 0 && Number.isFinite(base) && Number.isFinite(exponent) && !Number.isInteger(exponent))
    throw failure;
  const result = base ** exponent;
  const isPlain = Number.isFinite(base) && Number.isFinite(exponent);
  if (isPlain && (!Number.isFinite(result) || (result === 0 && base !== 0))) throw outOfRange();
  return result;
}

/** A power of exact numbers: with a whole exponent rounded to at least 16 decimals, else right to about 15 digits. */
export function exactPower(base: Numeric, exponent: Numeric): Numeric {
  const [plain, times] = [exact.toDouble(base), exact.toDouble(exponent)];
  const result = power(plain, times);
  if (typeof base === "string" || !Number.isInteger(times) || times < 0 || times > 100)
    return exact.byDoubles(result);
  const product = Array.from({ length: times }, () => base).reduce<Numeric>(
    exact.multiply,
    exact.ofInteger(1n),
  );
  return exact.round(product, Math.max(16, base.scale));
}
