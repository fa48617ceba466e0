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

function written(value: number): string {
  if (Number.isFinite(value)) return String(value);
  if (Number.isNaN(value)) return "NaN";
  return value > 0 ? "+Inf" : "-Inf";
}

/** Metrics as text. Source: OpenMetrics 1.0, section "Text Format". Counters end in _total, as it asks. */
export function printMetrics(families: readonly MetricFamily[]): string {
  const lines = families.flatMap(({ name, kind, help, samples }) => [
    `# TYPE ${name} ${kind}`,
    `# HELP ${name} ${escaped(help)}`,
    ...samples.map(({ labels = {}, value }) => {
      const told = Object.entries(labels)
        .map(([label, text]) => `${label}="${escaped(text)}"`)
        .join(",");
      return `${name}${kind === "counter" ? "_total" : ""}${told === "" ? "" : `{${told}}`} ${written(value)}`;
    }),
  ]);
  return `${lines.join("\n")}\n# EOF\n`;
}
