import { printMetrics } from "./open-metrics";

test("metrics are written as OpenMetrics asks: types, escaped labels, counters with their ending, and an end", () => {
  expect(
    printMetrics([
      {
        name: "ravlen_runs",
        kind: "gauge",
        help: "Runs\nby state.",
        samples: [{ labels: { state: "queued", pipeline: 'a "b" \\ c\n' }, value: 2 }, { value: Infinity }],
      },
      { name: "ravlen_rows", kind: "counter", help: "Rows.", samples: [{ value: 1.5 }] },
    ]),
  ).toBe(`# TYPE ravlen_runs gauge
# HELP ravlen_runs Runs\\nby state.
ravlen_runs{state="queued",pipeline="a \\"b\\" \\\\ c\\n"} 2
ravlen_runs +Inf
# TYPE ravlen_rows counter
# HELP ravlen_rows Rows.
ravlen_rows_total 1.5
# EOF
`);
});
