/** One number with the labels that tell it apart. */
export interface Sample {
  readonly labels?: Readonly<Record<string, string>>;
  readonly value: number;
}

/** A family of numbers of one meaning. */
export interface MetricFamily {
  readonly name: string;
  readonly kind: "gauge" | "counter";
  readonly help: string;
  readonly samples: readonly Sample[];
}

const escaped = (text: string): string =>
  text.replaceAll("\\", "\\\\").replaceAll("\n", "\\n").replaceAll('"', '\\"');

/** Metrics as text. Source: OpenMetrics 1.0, section "Text Format". Counters end in _total, as it asks. */
export function printMetrics(families: readonly MetricFamily[]): string {
  const lines = families.flatMap(({ name, kind, help, samples }) => [
    `# TYPE ${name} ${kind}`,
    `# HELP ${name} ${escaped(help)}`,
    ...samples.map(({ labels = {}, value }) => {
      const told = Object.entries(labels)
        .map(([label, text]) => `${label}="${escaped(text)}"`)
        .join(",");
      return `${name}${kind === "counter" ? "_total" : ""}${told === "" ? "" : `{${told}}`} ${Number.isFinite(value) ? value : value > 0 ? "+Inf" : value < 0 ? "-Inf" : "NaN"}`;
    }),
  ]);
  return `${lines.join("\n")}\n# EOF\n`;
}
