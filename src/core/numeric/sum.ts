/**
 * Sum with Neumaier's compensation, exact to about one rounding for sums of any length.
 * Source: Neumaier, "Rundungsfehleranalyse einiger Verfahren zur Summation endlicher Summen", ZAMM 54, 1974.
 */
export function compensatedSum(values: Iterable<number>): number {
  let sum = 0;
  let lost = 0;
  for (const value of values) {
    const next = sum + value;
    lost += Math.abs(sum) >= Math.abs(value) ? sum - next + value : value - next + sum;
    sum = next;
  }
  return sum + lost;
}
